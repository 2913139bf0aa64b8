/** Takes, what was heard in listening mode, and their judgements. */
import { type QueryClient, useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { type Activity, type HandChoice, type Schemas, type Take, type TakeCreate, api, unwrap } from "../client";
import { isOver } from "./jobs";

/** How often what is being worked on is looked at; and what is still on its way. */
const LOOK_MS = 700;
const COMING_MS = 5000;

/** When a take is looked at again. */
const lookAgain = (state: Schemas["TakeState"] | undefined) =>
  state === "waiting" ? LOOK_MS : state === "coming" ? COMING_MS : false;

/** A student's takes of a piece, newest first; earlier ones are fetched when they are asked for. */
export const useTakes = (id: number, student: number) =>
  useInfiniteQuery({
    queryKey: ["takes", id, student],
    queryFn: ({ pageParam: before }) =>
      unwrap(
        api.GET("/api/pieces/{piece_id}/takes", {
          params: { path: { piece_id: id }, query: before === null ? { student } : { student, before } },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
    select: ({ pages }) => pages.flatMap((page) => page.items),
    refetchInterval: ({ state }) =>
      state.data?.pages.some((page) => page.items.some((take) => take.state === "waiting")) ? 2 * LOOK_MS : false,
  });

/** ``more``: whether it is looked at again for another reason. */
export const useTake = (id: number, more?: (take: Take | undefined) => boolean) =>
  useQuery({
    queryKey: ["take", id],
    queryFn: () => unwrap(api.GET("/api/takes/{take_id}", { params: { path: { take_id: id } } })),
    // A long take is judged, a recording is heard while one looks.
    refetchInterval: ({ state }) => lookAgain(state.data?.state) || (more?.(state.data) ? LOOK_MS : false),
  });

/** Forgets what a new, changed or deleted take of a piece makes out of date. */
export const takesChanged = (client: QueryClient, pieceId: number) =>
  Promise.all(
    [["takes", pieceId], ["piece", pieceId], ["pieces"], ["students"]].map((queryKey) =>
      client.invalidateQueries({ queryKey }),
    ),
  );

function useTakesChanged(pieceId: number) {
  const client = useQueryClient();
  return () => takesChanged(client, pieceId);
}

export const sendTake = (pieceId: number, body: TakeCreate) =>
  unwrap(api.POST("/api/pieces/{piece_id}/takes", { params: { path: { piece_id: pieceId } }, body }));

export function useSimulateTake(pieceId: number) {
  const changed = useTakesChanged(pieceId);
  return useMutation({
    mutationFn: (body: Schemas["SimulatedTakeCreate"]) =>
      unwrap(api.POST("/api/pieces/{piece_id}/takes/simulated", { params: { path: { piece_id: pieceId } }, body })),
    onSuccess: changed,
  });
}

export function useNoteTake(takeId: number, pieceId: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (note: string) =>
      unwrap(api.PATCH("/api/takes/{take_id}", { params: { path: { take_id: takeId } }, body: { note } })),
    onSuccess: (take) => {
      client.setQueryData(["take", takeId], take);
      return client.invalidateQueries({ queryKey: ["takes", pieceId] });
    },
  });
}

export function useDeleteTake(pieceId: number) {
  const changed = useTakesChanged(pieceId);
  return useMutation({
    mutationFn: async ({ id, deleted }: { id: number; deleted: boolean }) => {
      const params = { path: { take_id: id } };
      if (deleted) await unwrap(api.DELETE("/api/takes/{take_id}", { params }));
      else await unwrap(api.POST("/api/takes/{take_id}/restore", { params }));
    },
    onSuccess: changed,
  });
}

/** A take put in the place of the one that is known, and what depends on it forgotten. */
function useTakeChange<Body = void>(
  takeId: number,
  pieceId: number,
  ask: (body: Body) => Promise<Schemas["TakePublic"]>,
) {
  const changed = useTakesChanged(pieceId);
  const client = useQueryClient();
  return useMutation({
    mutationFn: ask,
    onSuccess: (take) => {
      client.setQueryData(["take", takeId], take);
      return changed();
    },
  });
}

export const useJudgeAgain = (takeId: number, pieceId: number) =>
  useTakeChange(takeId, pieceId, () =>
    unwrap(api.POST("/api/takes/{take_id}/judge", { params: { path: { take_id: takeId } } })),
  );

export const useJudgeAsPassage = (takeId: number, pieceId: number) =>
  useTakeChange(takeId, pieceId, (measures: string | null) =>
    unwrap(api.POST("/api/takes/{take_id}/passage", { params: { path: { take_id: takeId } }, body: { measures } })),
  );

export const useOverrule = (takeId: number, pieceId: number) =>
  useTakeChange(takeId, pieceId, (body: Schemas["OverruleCreate"] | null) => {
    const params = { path: { take_id: takeId } };
    return unwrap(
      body
        ? api.PUT("/api/takes/{take_id}/overrule", { params, body })
        : api.DELETE("/api/takes/{take_id}/overrule", { params }),
    );
  });

export const useOutdatedTakes = () =>
  useQuery({ queryKey: ["outdated-takes"], queryFn: () => unwrap(api.GET("/api/outdated-takes")) });

const JUDGING = ["judge-all"];

/** The job that judges all takes anew: the last one there was, looked at while it is at work. */
export function useJudgingJob() {
  const client = useQueryClient();
  const job = useQuery({
    queryKey: JUDGING,
    queryFn: () => unwrap(api.GET("/api/judge-all")),
    refetchInterval: ({ state }) => (state.data && !isOver(state.data) ? LOOK_MS : false),
  });
  const state = job.data?.state;
  const before = useRef(state);
  useEffect(() => {
    // What it said is in every list of takes, on the shelf and on the ladders.
    if (before.current !== undefined && before.current !== state && job.data && isOver(job.data))
      void client.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== JUDGING[0] });
    before.current = state;
  }, [client, state, job.data]);
  return job;
}

export function useJudgeAll() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (stop: number | null) =>
      stop === null
        ? unwrap(api.POST("/api/judge-all"))
        : unwrap(api.POST("/api/jobs/{job_id}/stop", { params: { path: { job_id: stop } } })),
    onSuccess: (job) => client.setQueryData(JUDGING, job),
  });
}

/** What a take from a file is to be, as the workspace has it chosen. */
export type TakeAsked = {
  activity: Activity;
  bpm: number;
  hands: HandChoice;
  measures: string | null;
  times_round: number;
};

export const useListenings = (pieceId: number) =>
  useQuery({
    queryKey: ["listenings", pieceId],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/listenings", { params: { path: { piece_id: pieceId } } })),
  });

export function useDeleteListening(pieceId: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async ({ id, deleted }: { id: number; deleted: boolean }) => {
      const params = { path: { listening_id: id } };
      if (deleted) await unwrap(api.DELETE("/api/listenings/{listening_id}", { params }));
      else await unwrap(api.POST("/api/listenings/{listening_id}/restore", { params }));
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["listenings", pieceId] }),
  });
}

export const useBeside = (takeId: number, listeningId: number | null) =>
  useQuery({
    queryKey: ["beside", takeId, listeningId],
    queryFn: () =>
      unwrap(
        api.GET("/api/takes/{take_id}/beside/{listening_id}", {
          params: { path: { take_id: takeId, listening_id: listeningId ?? 0 } },
        }),
      ),
    enabled: listeningId !== null,
  });
