/** Pieces, their counts and choices, and questions on them. */
import { keepPreviousData, notifyManager, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Choices, type HandChoice, type QuestionKind, type Schemas, api, fileBody, unwrap } from "../client";

/** As many pieces are fetched at once. */
const MANY = 200;

/** The whole shelf, fetched page by page. */
export const usePieces = () =>
  useQuery({
    queryKey: ["pieces"],
    queryFn: async ({ signal }) => {
      const found: Schemas["PieceShort"][] = [];
      for (let after: number | null = null, isMore = true; isMore; isMore = after !== null) {
        const query = after === null ? { limit: MANY } : { after, limit: MANY };
        const page: Schemas["PiecePage"] = await unwrap(api.GET("/api/pieces", { params: { query }, signal }));
        found.push(...page.items);
        after = page.next;
      }
      return found;
    },
  });

export const usePiece = (id: number) =>
  useQuery({
    queryKey: ["piece", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}", { params: { path: { piece_id: id } } })),
  });

/** Where in a bar something is struck: where a spot may begin or end. */
export const useStrikes = (id: number, measure: string, enabled: boolean) =>
  useQuery({
    queryKey: ["piece", id, "strikes", measure],
    queryFn: () =>
      unwrap(api.GET("/api/pieces/{piece_id}/strikes", { params: { path: { piece_id: id }, query: { measure } } })),
    enabled,
  });

/** What can be chosen for a piece's play-along; it changes only with the score. */
export const usePlayOptions = (id: number) =>
  useQuery({
    queryKey: ["piece", id, "play-options"],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/play-options", { params: { path: { piece_id: id } } })),
  });

type CountedFor = { density?: Schemas["Density"] | null; student?: number | null };

/** ``density``: counted so densely, whatever was chosen; ``student``: at the level of that one. */
export const useCounts = (id: number, bpm: number, hand: HandChoice, { density, student }: CountedFor = {}) =>
  useQuery({
    queryKey: ["counts", id, bpm, hand, ...(density ? [density] : []), ...(student ? [student] : [])],
    queryFn: () => {
      const query = { bpm, hand, ...(density ? { density } : {}), ...(student ? { student } : {}) };
      return unwrap(api.GET("/api/pieces/{piece_id}/counts", { params: { path: { piece_id: id }, query } }));
    },
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
    mutationFn: (body: Choices) =>
      unwrap(
        api.PUT("/api/pieces/{piece_id}/counts", { params: { path: { piece_id: id }, query: { bpm, hand } }, body }),
      ),
    onSuccess: ({ choices, counts }) => {
      void client.invalidateQueries({ queryKey: ["counts", id], refetchType: "none" });
      notifyManager.batch(() => {
        // one redraw for both
        client.setQueryData(["counts", id, bpm, hand], counts);
        client.setQueryData(["choices", id], choices);
      });
    },
    onError: () => client.invalidateQueries({ queryKey: ["counts", id] }),
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
    queryFn: () =>
      unwrap(api.GET("/api/pieces/{piece_id}/questions/{kind}", { params: { path: { piece_id: id, kind } } })),
    staleTime: Infinity,
    gcTime: 0,
  });

export function useAnswer(id: number, kind: QuestionKind) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["AnswerCreate"]) =>
      unwrap(
        api.POST("/api/pieces/{piece_id}/questions/{kind}/answers", { params: { path: { piece_id: id, kind } }, body }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["question-kinds", id] }),
  });
}

export function useAddPiece() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (file: File) => unwrap(api.POST("/api/pieces", fileBody("file", file))),
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
