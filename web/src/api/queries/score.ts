/** The score of a piece: the page, the pencil, the playing order and its reading. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { ApiError, type ChangeCreate, type Schemas, api, unwrap } from "../client";
import type { paths } from "../schema";
import { made } from "./jobs";

type NotationAsked = NonNullable<paths["/api/pieces/{piece_id}/notation"]["get"]["parameters"]["query"]>;

/** Lines of the engraved page, when they are engraved. */
export const fetchNotation = (id: number, query: NotationAsked, signal?: AbortSignal) =>
  made<Schemas["NotationPublic"]>(
    () =>
      api.GET("/api/pieces/{piece_id}/notation", { params: { path: { piece_id: id }, query }, signal: signal ?? null }),
    signal,
  );

export const usePencil = (id: number) =>
  useQuery({
    queryKey: ["pencil", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/pencil", { params: { path: { piece_id: id } } })),
  });

/** What the pencil can be asked to do. */
export type PencilAct =
  { do: "add"; change: ChangeCreate } | { do: "remove"; key: string } | { do: "undo" } | { do: "redo" };

/** One step of the pencil from the version that was looked at; another window's step in between is a conflict, and
 * the score is then fetched as it is. */
export function useChangePencil(id: number) {
  const client = useQueryClient();
  const changed = usePieceChanged(id);
  const path = { piece_id: id };
  return useMutation({
    mutationFn: (act: PencilAct & { version: number | null }) => {
      const { version } = act;
      if (act.do === "add")
        return unwrap(
          api.POST("/api/pieces/{piece_id}/pencil", { params: { path }, body: { version, change: act.change } }),
        );
      if (act.do === "remove")
        return unwrap(
          api.DELETE("/api/pieces/{piece_id}/pencil/{key}", {
            params: { path: { ...path, key: act.key }, query: { version } },
          }),
        );
      if (act.do === "undo")
        return unwrap(api.POST("/api/pieces/{piece_id}/pencil/undo", { params: { path }, body: { version } }));
      return unwrap(api.POST("/api/pieces/{piece_id}/pencil/redo", { params: { path }, body: { version } }));
    },
    onSuccess: (pencil) => {
      client.setQueryData(["pencil", id], pencil);
      void changed("pencil");
    },
    onError: (error) => {
      if (error instanceof ApiError && error.status === 409)
        void client.invalidateQueries({ queryKey: ["pencil", id] });
    },
  });
}

/** What meets and where the hands stand, for a hand that spans such an interval. */
export const useTogether = (id: number, span: number) =>
  useQuery({
    queryKey: ["together", id, span],
    queryFn: () =>
      unwrap(api.GET("/api/pieces/{piece_id}/map", { params: { path: { piece_id: id }, query: { span } } })),
    placeholderData: keepPreviousData,
  });

export const useRoadmap = (id: number) =>
  useQuery({
    queryKey: ["roadmap", id],
    queryFn: () => unwrap(api.GET("/api/pieces/{piece_id}/roadmap", { params: { path: { piece_id: id } } })),
  });

/** What a changed playing order, reading or pencil makes out of date: nearly everything of the piece, but what was
 * just fetched (``fresh``). */
export function usePieceChanged(id: number) {
  const client = useQueryClient();
  return (fresh?: "pencil") =>
    Promise.all(
      ["piece", "roadmap", "reading", "counts", "notation", "pencil", "together", "takes", "take"]
        .filter((name) => name !== fresh)
        .map((name) => client.invalidateQueries({ queryKey: name === "take" ? [name] : [name, id] })),
    );
}

export function usePutRoadmap(id: number) {
  const changed = usePieceChanged(id);
  return useMutation({
    mutationFn: (body: Schemas["RoadmapUpdate"]) =>
      unwrap(api.PUT("/api/pieces/{piece_id}/roadmap", { params: { path: { piece_id: id } }, body })),
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
    mutationFn: (body: Schemas["ReadingUpdate"]) =>
      unwrap(api.PUT("/api/pieces/{piece_id}/reading", { params: { path: { piece_id: id } }, body })),
    onSuccess: () => changed(),
  });
}
