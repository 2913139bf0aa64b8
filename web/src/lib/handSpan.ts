/** How far a hand is said to reach, as an interval, on this device. */
import * as z from "zod/mini";

import { keep, readStored } from "./stored";

export const SPANS = [
  ["5", "a fifth"],
  ["6", "a sixth"],
  ["7", "a seventh"],
  ["8", "an octave"],
  ["9", "a ninth"],
  ["10", "a tenth"],
] as const;
export type HandSpan = (typeof SPANS)[number][0];

const KEY = "laptick.span";

/** An octave until another was chosen. */
export function handSpan(): HandSpan {
  return SPANS.find(([key]) => key === readStored(KEY, z.string()))?.[0] ?? "8";
}

export function keepHandSpan(span: HandSpan): void {
  keep(KEY, span);
}
