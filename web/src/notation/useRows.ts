/** An engraved page line by line: every line has its room from the start, and only those in sight are fetched and drawn. */
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { type RefObject, useState } from "react";

import type { Schemas } from "../api/client";
import { canTellSight, useInSight } from "../ui/long/useInSight";

type Notation = Schemas["NotationPublic"];

export type Page = {
  /** Of every line its height by its width. */
  shares: readonly number[];
  /** The drawings of those that are in sight. */
  svgs: ReadonlyMap<number, string>;
};

/** Lines fetched at once. */
const CHUNK = 6;

type Asked = {
  /** What the page is drawn of: another key is another page. */
  pageKey: readonly unknown[];
  fetchRows: (first: number, rows: number, signal: AbortSignal) => Promise<Notation>;
  isReady: boolean;
  /** Notes and rests that must be drawn, wherever they stand. */
  needed?: readonly string[];
};

export function useRows(frame: RefObject<HTMLElement | null>, { pageKey, fetchRows, isReady, needed = [] }: Asked) {
  const [count, setCount] = useState(0);
  const near = useInSight(frame, count);
  const ask = (chunk: number) => ({
    queryKey: [...pageKey, chunk],
    queryFn: ({ signal }: { signal: AbortSignal }) => fetchRows(chunk * CHUNK, CHUNK, signal),
    placeholderData: keepPreviousData<Notation>,
    enabled: isReady,
  });
  // The first lines tell of all how high they are; which others are wanted is known then.
  const first = useQuery(ask(0));
  const lines = first.data?.shares.length ?? 0;
  if (lines !== count) setCount(lines);
  const wanted = wantedRows(first.data, near, needed);
  const chunks = [...new Set([...wanted].map((row) => Math.floor(row / CHUNK)))].filter((chunk) => chunk > 0);
  const others = useQueries({ queries: chunks.map(ask) });

  const svgs = new Map<number, string>();
  for (const { data } of [first, ...others])
    data?.rows.forEach((row, at) => {
      if (wanted.has(data.first + at)) svgs.set(data.first + at, row.svg);
    });
  const page: Page | undefined = first.data && { shares: first.data.shares, svgs };
  return {
    page,
    error: [first, ...others].find((one) => one.error)?.error ?? null,
    /** Changes whenever what is drawn does. */
    drawn: `${[first, ...others].map((one) => one.dataUpdatedAt).join(" ")} ${[...svgs.keys()].join(" ")}`,
  };
}

/** The lines to be drawn: those in sight (before that is known the first; where it cannot be known all), and those on
 * which something needed stands. */
export function wantedRows(
  page: Pick<Notation, "shares" | "items"> | undefined,
  near: ReadonlySet<number>,
  needed: readonly string[],
  canSee = canTellSight,
): Set<number> {
  const count = page?.shares.length ?? 0;
  const inSight = near.size
    ? [...near]
    : Array.from({ length: canSee ? Math.min(CHUNK, count) : count }, (_, row) => row);
  const wanted = new Set(inSight.filter((row) => row < count));
  const asked = new Set(needed);
  if (asked.size)
    page?.items.forEach((items, row) => {
      if (items.some((item) => asked.has(item))) wanted.add(row);
    });
  return wanted;
}
