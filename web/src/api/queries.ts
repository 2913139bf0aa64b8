/** What the screens ask for, by name, so that a change is seen everywhere it shows. */
import { QueryClient, keepPreviousData, notifyManager, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { ApiError, type ChangeCreate, type Choices, type HandChoice, type QuestionKind, type Schemas, type TakeCreate, api, unwrap } from "./client";

export const queryClient = new QueryClient({
  defaultOptions: {
    // The server is on this machine: being without a network says nothing.
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      retry: (count, error) => count < 3 && error instanceof ApiError && (error.status === 0 || error.status >= 500),
    },
  },
});

export const usePieces = () =>
  useQuery({ queryKey: ["pieces"], queryFn: () => unwrap(api.GET("/api/pieces")) });

export const usePiece = (id: number) =>
  useQuery({
    queryKey: ["piece", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}", { params: { path: { piece_id: id } } })),
  });

/** What can be chosen for a piece's play-along; it changes only with the score. */
export const usePlayOptions = (id: number) =>
  useQuery({
    queryKey: ["piece", id, "play-options"],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/play-options", { params: { path: { piece_id: id } } })),
  });

export const useCounts = (id: number, bpm: number, hand: HandChoice) =>
  useQuery({
    queryKey: ["counts", id, bpm, hand],
    queryFn: () =>
      unwrap(api.GET("/api/pieces/{piece_id}/counts", { params: { path: { piece_id: id }, query: { bpm, hand } } })),
    placeholderData: keepPreviousData,
    enabled: bpm > 0,
  });

export const usePieceChoices = (id: number) =>
  useQuery({
    queryKey: ["choices", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/choices", { params: { path: { piece_id: id } } })),
  });

/** The counts that are on the screen come back with the stored choice; all others are asked for when they are next. */
export function usePutChoices(id: number, bpm: number, hand: HandChoice) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Choices) => unwrap(api.PUT("/api/pieces/{piece_id}/counts", { params: { path: { piece_id: id }, query: { bpm, hand } }, body })),
    onSuccess: ({ choices, counts }) => {
      void client.invalidateQueries({ queryKey: ["counts", id], refetchType: "none" });
      notifyManager.batch(() => { // one redraw for both
        client.setQueryData(["counts", id, bpm, hand], counts);
        client.setQueryData(["choices", id], choices);
      });
    },
    onError: () => client.invalidateQueries({ queryKey: ["counts", id] }),
  });
}

export const useCountSystems = () =>
  useQuery({ queryKey: ["count-systems"], queryFn: () => unwrap(api.GET("/api/count-systems")), staleTime: Infinity });

export const useVoice = () => useQuery({ queryKey: ["voice"], queryFn: () => unwrap(api.GET("/api/voice")) });

/** Any word as the voice says it; asked for only when one is typed. */
export const useVoiceWord = (say: string) =>
  useQuery({ queryKey: ["voice", "word", say], queryFn: () => unwrap(api.GET("/api/voice/word", { params: { query: { say } } })), enabled: say !== "" });

/** Keeps a recording of one word; it is heard from now on. */
export function useRecordWord() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ reading, spoken, audio }: { reading: string; spoken: string; audio: Blob }) => {
      const form = new FormData();
      form.append("audio", audio, "word.wav");
      return unwrap(api.POST("/api/voice/own", { params: { query: { reading, spoken } }, body: form as never, bodySerializer: (body: unknown) => body as FormData }));
    },
    onSettled: () => client.invalidateQueries({ queryKey: ["voice"] }),
  });
}

/** Moves where a recording's vowel begins, or takes it out of use and back. */
export function useChangeOwnWord() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, ...body }: { id: number; vowel_s?: number; is_used?: boolean }) =>
      unwrap(api.PATCH("/api/voice/own/{word_id}", { params: { path: { word_id: id } }, body })),
    onSettled: () => client.invalidateQueries({ queryKey: ["voice"] }),
  });
}

export const useStudioChoices = () => useQuery({ queryKey: ["studio-choices"], queryFn: () => unwrap(api.GET("/api/choices")) });

export function usePutStudioChoices() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["StudioChoices"]) => unwrap(api.PUT("/api/choices", { body })),
    onSuccess: (choices) => {
      client.setQueryData(["studio-choices"], choices);
      return Promise.all(["counts", "notation", "pieces", "piece", "roadmap", "pencil", "question-kinds", "count-systems", "voice"].map((name) => client.invalidateQueries({ queryKey: [name] })));
    },
  });
}

export const useLimits = () => useQuery({ queryKey: ["limits"], queryFn: () => unwrap(api.GET("/api/limits")), staleTime: Infinity });

/** What the studio calls lengths of notes. */
export const useNaming = () => useStudioChoices().data?.length_names ?? "american";

export const useCountExample = (layer: Schemas["ChoiceLayer"]) =>
  useQuery({ queryKey: ["count-example", layer], queryFn: () => unwrap(api.POST("/api/count-example", { body: layer })), placeholderData: keepPreviousData });

/** ``stamp`` changes whenever the counts do, so that the page is drawn anew. */
export const useNotation = (id: number, bpm: number, hand: HandChoice, width: number, stamp: number) =>
  useQuery({
    queryKey: ["notation", id, bpm, hand, width, stamp],
    queryFn: () =>
      unwrap(api.GET("/api/pieces/{piece_id}/notation", { params: { path: { piece_id: id }, query: { bpm, hand, width } } })),
    placeholderData: keepPreviousData,
    enabled: width > 0,
  });

/** The page without counts, as the pencil needs it; ``version`` is the pencil's. */
export const usePlainNotation = (id: number, width: number, version: number | null) =>
  useQuery({
    queryKey: ["notation", id, "plain", width, version],
    queryFn: () =>
      unwrap(api.GET("/api/pieces/{piece_id}/notation", { params: { path: { piece_id: id }, query: { bpm: 60, width, counts: false } } })),
    placeholderData: keepPreviousData,
    enabled: width > 0,
  });

export const usePencil = (id: number) =>
  useQuery({
    queryKey: ["pencil", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/pencil", { params: { path: { piece_id: id } } })),
  });

/** What the pencil can be asked to do. */
export type PencilAct = { do: "add"; change: ChangeCreate } | { do: "remove"; key: string } | { do: "undo" } | { do: "redo" };

/** One step of the pencil from the version that was looked at; another window's step in between is a conflict, and
 * the score is then fetched as it is. */
export function useChangePencil(id: number) {
  const client = useQueryClient();
  const changed = usePieceChanged(id);
  const path = { piece_id: id };
  return useMutation({
    mutationFn: (act: PencilAct & { version: number | null }) => {
      const { version } = act;
      if (act.do === "add") return unwrap(api.POST("/api/pieces/{piece_id}/pencil", { params: { path }, body: { version, change: act.change } }));
      if (act.do === "remove") return unwrap(api.DELETE("/api/pieces/{piece_id}/pencil/{key}", { params: { path: { ...path, key: act.key }, query: { version } } }));
      if (act.do === "undo") return unwrap(api.POST("/api/pieces/{piece_id}/pencil/undo", { params: { path }, body: { version } }));
      return unwrap(api.POST("/api/pieces/{piece_id}/pencil/redo", { params: { path }, body: { version } }));
    },
    onSuccess: (pencil) => {
      client.setQueryData(["pencil", id], pencil);
      void changed("pencil");
    },
    onError: (error) => {
      if (error instanceof ApiError && error.status === 409) void client.invalidateQueries({ queryKey: ["pencil", id] });
    },
  });
}

export const useEntry = (id: number) =>
  useQuery({
    queryKey: ["entry", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/entry", { params: { path: { piece_id: id } } })),
    staleTime: Infinity,
    gcTime: 0,
  });

/** Stores a passage as it is typed now. */
export function usePutEntry(id: number) {
  const changed = usePieceChanged(id);
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["EntryUpdate"]) => unwrap(api.PUT("/api/pieces/{piece_id}/entry", { params: { path: { piece_id: id } }, body })),
    onSuccess: (entry) => {
      client.setQueryData(["entry", id], entry);
      void changed();
      void client.invalidateQueries({ queryKey: ["pieces"] });
    },
  });
}

export function useAddEntry() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["EntryCreate"]) => unwrap(api.POST("/api/entries", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["pieces"] }),
  });
}

export const useQuestionKinds = (id: number) =>
  useQuery({
    queryKey: ["question-kinds", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/questions", { params: { path: { piece_id: id } } })),
  });

/** A round of questions stays as it is until it is through. */
export const useQuestions = (id: number, kind: QuestionKind) =>
  useQuery({
    queryKey: ["questions", id, kind],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/questions/{kind}", { params: { path: { piece_id: id, kind } } })),
    staleTime: Infinity,
    gcTime: 0,
  });

export function useAnswer(id: number, kind: QuestionKind) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["AnswerCreate"]) =>
      unwrap(api.POST("/api/pieces/{piece_id}/questions/{kind}/answers", { params: { path: { piece_id: id, kind } }, body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["question-kinds", id] }),
  });
}

export const useRoadmap = (id: number) =>
  useQuery({
    queryKey: ["roadmap", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/roadmap", { params: { path: { piece_id: id } } })),
  });

/** What a changed playing order, reading or pencil makes out of date: nearly everything of the piece, but what was
 * just fetched (``fresh``). */
function usePieceChanged(id: number) {
  const client = useQueryClient();
  return (fresh?: "pencil") =>
    Promise.all(
      ["piece", "roadmap", "reading", "counts", "notation", "pencil", "takes", "take"].filter((name) => name !== fresh).map((name) => client.invalidateQueries({ queryKey: name === "take" ? [name] : [name, id] })),
    );
}

export function usePutRoadmap(id: number) {
  const changed = usePieceChanged(id);
  return useMutation({
    mutationFn: (body: Schemas["RoadmapUpdate"]) => unwrap(api.PUT("/api/pieces/{piece_id}/roadmap", { params: { path: { piece_id: id } }, body })),
    onSuccess: () => changed(),
  });
}

export const useReading = (id: number) =>
  useQuery({
    queryKey: ["reading", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/reading", { params: { path: { piece_id: id } } })),
  });

export function usePutReading(id: number) {
  const changed = usePieceChanged(id);
  return useMutation({
    mutationFn: (body: Schemas["ReadingUpdate"]) => unwrap(api.PUT("/api/pieces/{piece_id}/reading", { params: { path: { piece_id: id } }, body })),
    onSuccess: () => changed(),
  });
}

export const useTakes = (id: number) =>
  useQuery({
    queryKey: ["takes", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/takes", { params: { path: { piece_id: id } } })),
  });

export const useTake = (id: number) =>
  useQuery({
    queryKey: ["take", id],
    queryFn: () => unwrap(api.GET("/api/takes/{take_id}", { params: { path: { take_id: id } } })),
  });

export const useFaults = (enabled: boolean) =>
  useQuery({ queryKey: ["faults"], queryFn: () => unwrap(api.GET("/api/faults")), enabled, staleTime: Infinity });

/** Forgets what a new, changed or deleted take of a piece makes out of date. */
function useTakesChanged(pieceId: number) {
  const client = useQueryClient();
  return () =>
    Promise.all([
      client.invalidateQueries({ queryKey: ["takes", pieceId] }),
      client.invalidateQueries({ queryKey: ["piece", pieceId] }),
      client.invalidateQueries({ queryKey: ["pieces"] }),
    ]);
}

export function useAddPiece() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (file: File) =>
      unwrap(
        api.POST("/api/pieces", {
          body: { file: file as unknown as string },
          bodySerializer: () => {
            const form = new FormData();
            form.append("file", file);
            return form;
          },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["pieces"] }),
  });
}

export function useUpdatePiece(id: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["PieceUpdate"]) =>
      unwrap(api.PATCH("/api/pieces/{piece_id}", { params: { path: { piece_id: id } }, body })),
    onSuccess: (piece) => {
      client.setQueryData(["piece", id], piece);
      return client.invalidateQueries({ queryKey: ["pieces"] });
    },
  });
}

export function useShelfPiece() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async ({ id, deleted }: { id: number; deleted: boolean }) => {
      const params = { path: { piece_id: id } };
      if (deleted) await unwrap(api.DELETE("/api/pieces/{piece_id}", { params }));
      else await unwrap(api.POST("/api/pieces/{piece_id}/restore", { params }));
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["pieces"] }),
  });
}

export const sendTake = (pieceId: number, body: TakeCreate) =>
  unwrap(api.POST("/api/pieces/{piece_id}/takes", { params: { path: { piece_id: pieceId } }, body }));

export function useSendTake(pieceId: number) {
  const changed = useTakesChanged(pieceId);
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: TakeCreate) => sendTake(pieceId, body),
    onSuccess: (take) => {
      client.setQueryData(["take", take.id], take);
      return changed();
    },
  });
}

export function useSimulateTake(pieceId: number) {
  const changed = useTakesChanged(pieceId);
  return useMutation({
    mutationFn: (body: Schemas["SimulatedTakeCreate"]) =>
      unwrap(
        api.POST("/api/pieces/{piece_id}/takes/simulated", { params: { path: { piece_id: pieceId } }, body }),
      ),
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

export function useJudgeAgain(takeId: number, pieceId: number) {
  const changed = useTakesChanged(pieceId);
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(api.POST("/api/takes/{take_id}/judge", { params: { path: { take_id: takeId } } })),
    onSuccess: (take) => {
      client.setQueryData(["take", takeId], take);
      return changed();
    },
  });
}

/** A take put in the place of the one that is known, and what depends on it forgotten. */
function useTakeChange<Body>(takeId: number, pieceId: number, ask: (body: Body) => Promise<Schemas["TakePublic"]>) {
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

export const useJudgeAsPassage = (takeId: number, pieceId: number) =>
  useTakeChange(takeId, pieceId, (measures: string | null) =>
    unwrap(api.POST("/api/takes/{take_id}/passage", { params: { path: { take_id: takeId } }, body: { measures } })));

export const useOverrule = (takeId: number, pieceId: number) =>
  useTakeChange(takeId, pieceId, (body: Schemas["OverruleCreate"] | null) => {
    const params = { path: { take_id: takeId } };
    return unwrap(body ? api.PUT("/api/takes/{take_id}/overrule", { params, body }) : api.DELETE("/api/takes/{take_id}/overrule", { params }));
  });

export function useJudgeAll() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(api.POST("/api/takes/judge-all")),
    onSuccess: () => client.invalidateQueries(),
  });
}

/** What a take from a file is to be, as the workspace has it chosen. */
export type TakeAsked = { rung: "count" | "lap" | "play"; bpm: number; hands: HandChoice; measures: string | null };

export function useSendTakeFile(pieceId: number) {
  const changed = useTakesChanged(pieceId);
  return useMutation({
    mutationFn: ({ file, settings }: { file: File; settings: TakeAsked }) =>
      unwrap(
        api.POST("/api/pieces/{piece_id}/takes/file", {
          params: { path: { piece_id: pieceId }, query: settings },
          body: { file: file as unknown as string },
          bodySerializer: () => {
            const form = new FormData();
            form.append("file", file);
            return form;
          },
        }),
      ),
    onSuccess: changed,
  });
}

export const useListenings = (pieceId: number) =>
  useQuery({
    queryKey: ["listenings", pieceId],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/listenings", { params: { path: { piece_id: pieceId } } })),
  });

export function useSendHeard(pieceId: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["ListeningCreate"]) =>
      unwrap(api.POST("/api/pieces/{piece_id}/listenings", { params: { path: { piece_id: pieceId } }, body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["listenings", pieceId] }),
  });
}

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
    queryFn: () => unwrap(api.GET("/api/takes/{take_id}/beside/{listening_id}", { params: { path: { take_id: takeId, listening_id: listeningId ?? 0 } } })),
    enabled: listeningId !== null,
  });
