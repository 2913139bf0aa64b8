/** What is typed of a passage and not stored yet: kept on this device, so that a killed tab does not lose it. */
import * as z from "zod/mini";

import { forget, keep, readStored } from "../../lib/stored";
import type { Bar } from "./typing";
import { MOST_BARS } from "./typing";

export type Kept = { version: number; bars: Bar[] };

const events = z.array(
  z.object({ length: z.string(), pitches: z.array(z.string()), is_rest: z.boolean(), is_tied: z.boolean() }),
);
const schema = z.object({
  version: z.number(),
  bars: z.array(z.object({ right: events, left: events })).check(z.maxLength(MOST_BARS)),
});

const key = (pieceId: number) => `laptick.entry.${pieceId}`;

export const keptTyped = (pieceId: number): Kept | null => readStored(key(pieceId), schema);

/** Without storage what is typed still stands on the screen. */
export function keepTyped(pieceId: number, kept: Kept): void {
  keep(key(pieceId), kept);
}

/** Forgets what is kept; with ``bars``, only if nothing else was typed since. */
export function forgetKept(pieceId: number, bars?: Bar[]): void {
  if (!bars || JSON.stringify(keptTyped(pieceId)?.bars) === JSON.stringify(bars)) forget(key(pieceId));
}
