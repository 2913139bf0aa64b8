/**
 * Where things of a piece lie on the page: rows of bars and pixels. Layout only; no rule of music.
 *
 * A bar is as wide as its words need, and beyond that all bars of a row are on one scale, so that one crowded bar makes
 * itself wide and no other. The count sheet follows the same rules (formats/pages/bar_layout.py).
 */
import type { Count, Measure } from "../api/client";
import { type Weight, wordWidth } from "./letters";

/** A bar of a row: where it lies in pixels, the type of its counts, and the instants whose words had no room. */
export type Bar = { measure: Measure; x: number; width: number; type_px: number; leftOut: ReadonlySet<number> };

export type Row = { measures: Measure[]; bars: readonly Bar[]; start: number; end: number };

/** A word that takes room: at which instant, how wide at type size 1, and what is left out first (the highest rank). */
type Word = { at: number; width: number; rank: number };

export const SIDE = 14;
/** A word begins so far behind its place, in parts of the type size. */
export const INDENT = 0.27;
const GAP = 0.16;
/** Types that are tried before words are left out, as parts of the wanted size. */
const SMALLER = [1, 0.93, 0.87, 0.8];
/** Room a quarter has at least and at most, in parts of the type size. */
const LEAST_QUARTER = 2.2;
const MOST_QUARTER = 10;
const NAME_PX = 14;

export type Lettering = { counts: readonly Count[]; type_px: number; units?: ReadonlyMap<number, string> };

export const shownWord = (count: Count) => (count.kind === "hold" ? `(${count.say})` : count.say);
export const weightOf = (count: Count): Weight => (count.kind === "strike" ? "800" : "400");

/** Bars that stand in one printed line and go on in it; in played order a jump back begins anew. */
function printedLines(measures: Measure[]): Measure[][] {
  const lines: Measure[][] = [];
  let before: Measure | undefined;
  for (const measure of measures) {
    const goesOn =
      before &&
      measure.line === before.line &&
      measure.bar_in_line >= before.bar_in_line &&
      measure.number !== before.number;
    if (goesOn) lines.at(-1)?.push(measure);
    else lines.push([measure]);
    before = measure;
  }
  return lines;
}

/** Printed lines as rows; where the screen is too narrow for a line, it is broken at its bars. */
export function layRows(measures: Measure[], width: number, { counts, type_px, units }: Lettering): Row[] {
  const room = Math.max(width - 2 * SIDE, 60);
  const inside = wordsOf(measures, counts);
  const needs = new Map(
    measures.map((m) => {
      const words = inside.get(m) ?? [];
      const scale = Math.max(LEAST_QUARTER * type_px, scaleNeeded(words, m, type_px));
      return [m, Math.max(scale * m.length_quarters, headWidth(m, units?.get(m.start_quarters)))];
    }),
  );
  const needOf = (m: Measure) => Math.min(needs.get(m) ?? 0, room);
  const rows = joinShort(printedLines(measures), needOf, room).flatMap((line) => breakLine(line, needOf, room));
  return rows.map((row) => {
    const widths = shareRoom(row, needOf, room, MOST_QUARTER * type_px);
    let x = SIDE;
    const bars = row.map((measure, index) => {
      const own = widths[index] ?? 0;
      const fitted = fitWords(inside.get(measure) ?? [], measure, type_px, own / measure.length_quarters);
      const bar = { measure, x, width: own, type_px: fitted.size, leftOut: fitted.leftOut };
      x += own;
      return bar;
    });
    const start = row[0]?.start_quarters ?? 0;
    return { measures: row, bars, start, end: start + row.reduce((sum, m) => sum + m.length_quarters, 0) };
  });
}

function wordsOf(measures: Measure[], counts: readonly Count[]): Map<Measure, Word[]> {
  const result = new Map<Measure, Word[]>(measures.map((m) => [m, []]));
  let index = 0;
  for (const count of counts) {
    while (index + 1 < measures.length && count.onset_quarters >= startOf(measures[index + 1]) - 1e-9) index++;
    const measure = measures[index];
    if (!measure) break;
    const offset = count.onset_quarters - measure.start_quarters;
    const depth = measure.ticks.find((tick) => Math.abs(tick.offset_quarters - offset) < 1e-6)?.depth ?? 9;
    result.get(measure)?.push({
      at: count.onset_quarters,
      width: wordWidth(shownWord(count), weightOf(count)) + INDENT,
      rank: count.is_beat ? -1 : depth,
    });
  }
  return result;
}

const startOf = (measure: Measure | undefined) => measure?.start_quarters ?? Infinity;

/** What stands above a bar: its name, and what is counted from it on. */
function headWidth(measure: Measure, unit: string | undefined): number {
  const name = (wordWidth(barName(measure), "800") + 0.9) * NAME_PX;
  return name + (unit ? (wordWidth(unit, "800") + 0.6) * NAME_PX : 0);
}

/** A bar's name as it stands above it. */
export const barName = (measure: Measure): string =>
  (measure.bar_in_line === 0 ? "pickup" : measure.number) +
  (measure.pass_number > 1 ? ` (${measure.pass_number})` : "");

/** The scale (pixels a quarter) at which every word of a bar ends before the next begins. */
function scaleNeeded(words: readonly Word[], measure: Measure, size: number): number {
  const end = measure.start_quarters + measure.length_quarters;
  return words.reduce((most, word, index) => {
    const gap = (words[index + 1]?.at ?? end) - word.at;
    return gap > 0 ? Math.max(most, ((word.width + GAP) * size) / gap) : most;
  }, 0);
}

/** Words in a bar of that scale: a little smaller where need be, then fewer, the least important left out. */
function fitWords(words: readonly Word[], measure: Measure, size: number, scale: number) {
  for (const part of SMALLER)
    if (scaleNeeded(words, measure, size * part) <= scale + 1e-9)
      return { size: size * part, leftOut: new Set<number>() };
  const smallest = size * (SMALLER.at(-1) ?? 1);
  let kept: Word[] = [];
  for (const word of words.toSorted((a, b) => a.rank - b.rank || a.at - b.at)) {
    const tried = [...kept, word].toSorted((a, b) => a.at - b.at);
    if (scaleNeeded(tried, measure, smallest) <= scale + 1e-9) kept = tried;
  }
  return { size: smallest, leftOut: new Set(words.filter((word) => !kept.includes(word)).map((word) => word.at)) };
}

type NeedOf = (measure: Measure) => number;
const sum = (row: readonly Measure[], of: NeedOf) => row.reduce((all, m) => all + of(m), 0);

/** A printed line of one bar that would leave its row half empty is joined to the line before it. */
function joinShort(lines: Measure[][], needOf: NeedOf, room: number): Measure[][] {
  const joined: Measure[][] = [];
  for (const line of lines) {
    const [only] = line;
    const before = joined.at(-1);
    const last = before?.at(-1);
    const goesOn = only && last && last.start_quarters + last.length_quarters >= only.start_quarters - 1e-9;
    const isNext = goesOn && only.pass_number === last.pass_number;
    if (before && only && line.length === 1 && isNext && needOf(only) < room / 2) before.push(only);
    else joined.push([...line]);
  }
  return joined;
}

/** The fewest rows that hold these bars, as even as they can be. */
function breakLine(line: Measure[], needOf: NeedOf, room: number): Measure[][] {
  const most = filled(line, needOf, room).length;
  let [low, high] = [0, room];
  for (let i = 0; i < 24; i++) {
    const middle = (low + high) / 2;
    if (filled(line, needOf, middle).length <= most) high = middle;
    else low = middle;
  }
  return filled(line, needOf, high);
}

function filled(line: Measure[], needOf: NeedOf, room: number): Measure[][] {
  const rows: Measure[][] = [];
  let taken = 0;
  for (const measure of line) {
    const need = needOf(measure);
    if (!rows.length || (taken > 0 && taken + need > room * (1 + 1e-9))) {
      rows.push([]);
      taken = 0;
    }
    rows.at(-1)?.push(measure);
    taken += need;
  }
  return rows;
}

/** Widths of the bars of a row: what each needs, and of what is left as much as brings all to one scale. */
function shareRoom(row: Measure[], needOf: NeedOf, room: number, mostScale: number): number[] {
  if (row.length === 1) return [room];
  const wide = (scale: number) => row.map((m) => Math.max(needOf(m), scale * m.length_quarters));
  const total = (scale: number) => wide(scale).reduce((all, one) => all + one, 0);
  let [low, high] = [0, mostScale];
  if (total(mostScale) <= room) low = mostScale;
  else
    for (let i = 0; i < 30; i++) {
      const middle = (low + high) / 2;
      if (total(middle) <= room) low = middle;
      else high = middle;
    }
  const over = Math.max(1, sum(row, needOf) / room);
  return wide(low).map((one) => one / over);
}

const barAt = (row: Row, onset: number): Bar | undefined =>
  row.bars.findLast((bar) => bar.measure.start_quarters <= onset + 1e-9) ?? row.bars[0];

export function xOf(row: Row, onset: number): number {
  const bar = barAt(row, onset);
  if (!bar) return SIDE;
  const share = (onset - bar.measure.start_quarters) / bar.measure.length_quarters;
  return bar.x + Math.min(share, 1) * bar.width;
}

/** The type of the counts at an instant, and whether its word had no room. */
export function typeAt(row: Row, onset: number): { size: number; isLeftOut: boolean } {
  const bar = barAt(row, onset);
  return { size: bar?.type_px ?? 15, isLeftOut: bar?.leftOut.has(onset) ?? false };
}

export const holds = (row: Row, onset: number) => onset >= row.start - 1e-9 && onset < row.end - 1e-9;

/** The bars of all rows in which a dot stands for a word, by name. */
export const thinnedBars = (rows: readonly Row[]): string[] =>
  rows.flatMap((row) => row.bars.filter((bar) => bar.leftOut.size).map((bar) => barName(bar.measure)));

/** How far a pin leans: even with the deviation, the limit at LEAN_AT_LIMIT_PX, never past the most. */
export const LEAN_AT_LIMIT_PX = 9;
const LEAN_MOST_PX = 26;

export function leanPx(deviation_ms: number, limit_ms: number): number {
  const lean = (deviation_ms / limit_ms) * LEAN_AT_LIMIT_PX;
  return Math.max(-LEAN_MOST_PX, Math.min(LEAN_MOST_PX, lean));
}
