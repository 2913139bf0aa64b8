/** The bars one works on: a stretch of the written score by the places of its first and last bar; null is all of it. */
export type Passage = { from: number; to: number };

type Bar = { number: string };

/** As it is asked for: ``3`` or ``3-5``; null for the whole piece. */
export function measuresOf(bars: readonly Bar[], passage: Passage | null): string | null {
  const [from, to] = passage ? [bars[passage.from], bars[passage.to]] : [];
  if (!from || !to) return null;
  return from === to ? from.number : `${from.number}-${to.number}`;
}

/** The passage of what was asked for, by the names of its bars; null where these are not there. */
export function passageNamed(bars: readonly Bar[], measures: string): Passage | null {
  const whole = bars.findIndex((bar) => bar.number === measures);
  if (whole >= 0) return { from: whole, to: whole };
  const [first, last] = measures.split("-");
  const from = bars.findIndex((bar) => bar.number === first);
  const to = bars.findIndex((bar, index) => index >= from && bar.number === (last ?? first));
  return from < 0 || to < 0 ? null : { from, to };
}

export function passageWords(bars: readonly Bar[], passage: Passage | null): string {
  const measures = measuresOf(bars, passage);
  if (!passage || measures === null) return "whole piece";
  return `${passage.from === passage.to ? "bar" : "bars"} ${measures.replace("-", "–")}`;
}

/** Up to so many bars are played round as one take, so often: a single short take tells too little. */
export const ROUND_BARS = 2;
export const TIMES_ROUND = 4;

export const goesRound = (bars: readonly Bar[], passage: Passage | null): boolean =>
  (passage ? passage.to - passage.from + 1 : bars.length) <= ROUND_BARS;

const TIMES = ["", "", "twice", "three times", "four times", "five times", "six times", "seven times", "eight times"];

/** ``, four times round``; nothing for once. */
export const roundWords = (times_round: number): string => (times_round > 1 ? `, ${TIMES[times_round]} round` : "");

/** ``bars 3–4, four times round``: what a take was of, as it is kept; nothing for the whole piece. */
export function takenWords(measures: string | null, times_round: number, within?: string | null): string {
  const bars = measures ? `${measures.includes("-") ? "bars" : "bar"} ${measures.replace("-", "–")}` : "whole piece";
  return measures || within || times_round > 1 ? (within ? `a spot of ${bars}` : bars) + roundWords(times_round) : "";
}

/** What of a passage is asked for, from where to where of the written score. */
export type Spot = { from_quarters: number; to_quarters: number };

/** ``3..1/2``: from 3 quarters into the first bar to half a quarter into the last. */
export function spotOf(
  bars: readonly { start_quarters: number }[],
  passage: Passage | null,
  within: string | null | undefined,
): Spot | null {
  const [from, to] = (within ?? "").split("..").map(quartersOf);
  const first = bars[passage?.from ?? 0];
  const last = bars[passage?.to ?? bars.length - 1];
  if (from === undefined || to === undefined || !first || !last) return null;
  return { from_quarters: first.start_quarters + from, to_quarters: last.start_quarters + to };
}

function quartersOf(text: string): number {
  const [top, bottom] = text.split("/").map(Number);
  return (top ?? 0) / (bottom ?? 1);
}

/** The same number of bars further on or back, within the piece; from the whole piece, its first or last bar. */
export function moved(passage: Passage | null, by: number, bars: number): Passage {
  const last = bars - 1;
  const length = passage ? passage.to - passage.from : 0;
  const from = passage ? Math.max(0, Math.min(last - length, passage.from + by)) : by > 0 ? 0 : last;
  return { from, to: from + length };
}

/** A bar chosen: alone, or (``extend``) up to it; the bar that was alone already gives the whole piece back. */
export function chosen(passage: Passage | null, index: number, extend: boolean): Passage | null {
  if (extend && passage) return { from: Math.min(passage.from, index), to: Math.max(passage.to, index) };
  return passage && passage.from === index && passage.to === index ? null : { from: index, to: index };
}
