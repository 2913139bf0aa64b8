/** Passages typed here: fetched, stored while they are typed, begun.
 *
 * A window stores one after the other, each from the version that the one before made. An answer that was lost on its way
 * is no other window's change: what is there then is what was sent from here. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";

import { ApiError, type Entry, type Schemas, api, unwrap } from "../client";
import { usePieceChanged } from "./score";

/** What is typed, without the version it stands on. */
export type Typed = Omit<Schemas["EntryUpdate"], "version">;

const keyOf = (id: number) => ["entry", id];
const fetchEntry = (id: number) =>
  unwrap(api.GET("/api/pieces/{piece_id}/entry", { params: { path: { piece_id: id } } }));
const storeEntry = (id: number, typed: Typed, version: number) =>
  unwrap(api.PUT("/api/pieces/{piece_id}/entry", { params: { path: { piece_id: id } }, body: { ...typed, version } }));

export const useEntry = (id: number) =>
  useQuery({ queryKey: keyOf(id), queryFn: () => fetchEntry(id), staleTime: Infinity, gcTime: 0 });

/** Stores a passage as it is typed now, in place of what this window fetched or stored last. */
export function usePutEntry(id: number) {
  const changed = usePieceChanged(id);
  const client = useQueryClient();
  /** What was sent and never answered: it may be stored. */
  const unsure = useRef<Typed | null>(null);
  const store = async (typed: Typed): Promise<Entry> => {
    const version = client.getQueryData<Entry>(keyOf(id))?.version ?? 0;
    const sent = unsure.current;
    try {
      unsure.current = typed;
      const now = await storeEntry(id, typed, version);
      unsure.current = null;
      return now;
    } catch (error) {
      if (!(error instanceof ApiError) || isUnanswered(error)) throw error;
      unsure.current = null;
      if (error.status !== 409 || !sent) throw error;
      const there = await fetchEntry(id);
      if (there.version !== version + 1 || !isSame(there, sent)) throw error;
      return storeEntry(id, typed, there.version);
    }
  };
  return useMutation({
    mutationFn: store,
    scope: { id: `entry ${String(id)}` }, // one after the other
    onSuccess: (entry) => {
      client.setQueryData(keyOf(id), entry);
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

/** Without an answer, or with one that does not say whether it was stored. */
const isUnanswered = (error: ApiError) => error.status === 0 || error.status >= 500;

/** Whether two passages are typed the same. */
export const isSame = (one: Typed, other: Typed): boolean => written(one) === written(other);

function written({ title, beats, beat_type, pickup, bpm, bars }: Typed): string {
  const events = (hand: Typed["bars"][number]["right"]) =>
    hand?.map((event) => [event.length, event.pitches ?? [], event.is_rest ?? false, event.is_tied ?? false]) ?? [];
  const head = [title, beats, beat_type, pickup ?? "0", bpm ?? null];
  return JSON.stringify([head, bars.map((bar) => [events(bar.right), events(bar.left)])]);
}
