/** Studies: a piece's ladder as it is climbed, the teacher's hand in it, how the studio teaches. */
import { type QueryClient, replaceEqualDeep, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import type { Edit } from "../../lib/editedLadder";
import { type Schemas, type Study, api, unwrap } from "../client";
import { atOnce, queryClient } from "./client";

/** Under the piece: what changes that may change its ladder. ``measures``: of a passage, empty for all of the piece. */
const keyOf = (pieceId: number, measures: string, student: number | null) => [
  "piece",
  pieceId,
  "study",
  measures,
  student,
];

const askStudy = (pieceId: number, measures: string, student: number | null) =>
  unwrap(
    api.GET("/api/pieces/{piece_id}/study", {
      params: {
        path: { piece_id: pieceId },
        query: { ...(measures ? { measures } : {}), ...(student === null ? {} : { student }) },
      },
    }),
  );

/**
 * What did not change stays the same object, rung by rung: place by place, as is usual, one rung that goes or moves
 * would make others of all above it.
 */
export function sharedStudy(old: Study | undefined, next: Study): Study {
  if (!old) return next;
  const known = new Map(old.rungs.map((one) => [one.key, one]));
  const rungs = next.rungs.map((one) => replaceEqualDeep(known.get(one.key), one));
  const isSame = rungs.length === old.rungs.length && rungs.every((one, at) => one === old.rungs[at]);
  const before = { ...old, rungs: null };
  const others = replaceEqualDeep(before, { ...next, rungs: null });
  return isSame && others === before ? old : { ...others, rungs: isSame ? old.rungs : rungs };
}

/** ``student``: null where none is named, which is the one that came with the studio. */
export const useStudy = (pieceId: number, measures: string, student: number | null) =>
  useQuery({
    queryKey: keyOf(pieceId, measures, student),
    queryFn: () => askStudy(pieceId, measures, student),
    structuralSharing: (old, next) => sharedStudy(old as Study | undefined, next as Study),
  });

/** A study as it is now, wherever it is shown. */
function showStudy(client: QueryClient, study: Study): void {
  client.setQueriesData<Study>({ queryKey: ["piece", study.piece_id, "study"] }, (old) =>
    old?.id === study.id ? study : old,
  );
}

/** The study as it is now, for what goes on without a screen. */
export async function freshStudy({ piece_id, measures, student_id }: Study): Promise<Study> {
  const study = await askStudy(piece_id, measures, student_id);
  showStudy(queryClient, study);
  return study;
}

/** The passages of a piece of which a student has a ladder. */
export const usePassages = (pieceId: number, student: number) =>
  useQuery({
    queryKey: ["piece", pieceId, "passages", student],
    queryFn: () =>
      unwrap(
        api.GET("/api/pieces/{piece_id}/passages", { params: { path: { piece_id: pieceId }, query: { student } } }),
      ),
    staleTime: 0, // the first look at a passage's ladder makes it
  });

export async function sendWord(study: Study, word: Schemas["WordCreate"]): Promise<Study> {
  const params = { path: { study_id: study.id } };
  const changed = await unwrap(api.POST("/api/studies/{study_id}/words", { params, body: word }));
  showStudy(queryClient, changed);
  void queryClient.invalidateQueries({ queryKey: ["pieces"] });
  void queryClient.invalidateQueries({ queryKey: ["students"] });
  return changed;
}

/** Something done to a study, which comes back as it is then. */
function useStudyChange<Body>(
  pieceId: number,
  ask: (body: Body) => Promise<Study>,
  expected: (body: Body) => Study | null = () => null,
) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ask,
    // Shown while the server makes it; what it answers holds.
    onMutate: (body) => {
      const study = expected(body);
      if (study) atOnce(() => showStudy(client, study));
    },
    onSuccess: (study) => {
      showStudy(client, study);
      void client.invalidateQueries({ queryKey: ["students"] });
      return client.invalidateQueries({ queryKey: ["pieces"] });
    },
    // What was refused may have been refused because somebody else changed it: what holds is shown.
    onError: () => client.invalidateQueries({ queryKey: ["piece", pieceId, "study"] }),
  });
}

export const useWord = (study: Study) =>
  useStudyChange(study.piece_id, (word: Schemas["WordCreate"]) => sendWord(study, word));

/** ``expected``: the ladder as it will be, where that is plain. */
export const useEdit = (study: Study, expected?: (edit: Edit) => Study | null) =>
  useStudyChange(
    study.piece_id,
    (edit: Edit) =>
      unwrap(
        api.POST("/api/studies/{study_id}/edits", {
          params: { path: { study_id: study.id } },
          body: { version: study.edits_version, edit },
        }),
      ),
    expected,
  );

export const useUndoEdit = (study: Study) =>
  useStudyChange(study.piece_id, (every: boolean) =>
    unwrap(
      api.POST("/api/studies/{study_id}/edits/undo", {
        params: { path: { study_id: study.id } },
        body: { version: study.edits_version, every },
      }),
    ),
  );

export const useSchool = (study: Study) =>
  useStudyChange(study.piece_id, (answers: Record<string, string>) =>
    unwrap(api.PUT("/api/studies/{study_id}/school", { params: { path: { study_id: study.id } }, body: { answers } })),
  );

export const useFeel = (pieceId: number) =>
  useStudyChange(pieceId, ({ takeId, feel }: { takeId: number; feel: Schemas["Feel"] }) =>
    unwrap(api.POST("/api/takes/{take_id}/feel", { params: { path: { take_id: takeId } }, body: { feel } })),
  );

export const useStudioSchool = () => useQuery({ queryKey: ["school"], queryFn: () => unwrap(api.GET("/api/school")) });

export function usePutStudioSchool() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ level, answers }: { level: Schemas["Level"] | null; answers: Record<string, string> }) =>
      unwrap(api.PUT("/api/school", { params: { query: level ? { level } : {} }, body: { answers } })),
    onSuccess: () => client.invalidateQueries(),
  });
}
