/** Where things of a piece lie on the page: rows of bars and pixels. Layout only; no rule of music. */
import type { Measure } from "../api/client";

export type Row = {
  measures: Measure[];
  start: number;
  end: number;
  /** Pixels a quarter; the same in every row, so that time looks alike everywhere. */
  scale: number;
};

export const SIDE = 14;
/** Room a count needs to be read. */
const COUNT_PX = 16;
const QUARTER_PX = 34;

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
export function layRows(measures: Measure[], width: number, smallestGap: number): Row[] {
  const lines = printedLines(measures);
  const wanted = Math.max(QUARTER_PX, COUNT_PX / Math.max(smallestGap, 0.125));
  const room = Math.max(width - 2 * SIDE, 60);
  const rows: Measure[][] = [];
  for (const line of lines) {
    rows.push(...split(line, (row) => span(row) * wanted <= room));
  }
  const scale = room / Math.max(...rows.map(span), 1);
  return rows.map((row) => {
    const start = row[0]?.start_quarters ?? 0;
    return { measures: row, start, end: start + span(row), scale: Math.min(scale, 150) };
  });
}

/** The fewest rows, nearly equal in bars, that all fit; single bars where even two do not. */
function split(line: Measure[], fits: (row: Measure[]) => boolean): Measure[][] {
  for (let rows = 1; rows < line.length; rows++) {
    const size = Math.ceil(line.length / rows);
    const parts = Array.from({ length: Math.ceil(line.length / size) }, (_, i) => line.slice(i * size, (i + 1) * size));
    if (parts.every(fits)) return parts;
  }
  return line.map((measure) => [measure]);
}

function span(row: Measure[]): number {
  return row.reduce((sum, m) => sum + m.length_quarters, 0);
}

export const xOf = (row: Row, onset: number) => SIDE + (onset - row.start) * row.scale;

export const holds = (row: Row, onset: number) => onset >= row.start - 1e-9 && onset < row.end - 1e-9;

/** The smallest distance between neighbouring positions of a bar, or a beat where there are few. */
export function smallestGap(onsets: number[]): number {
  let smallest = 1;
  for (let i = 1; i < onsets.length; i++) {
    const gap = (onsets[i] as number) - (onsets[i - 1] as number);
    if (gap > 1e-6) smallest = Math.min(smallest, gap);
  }
  return smallest;
}

/** Type size of a count, and the width it must be pressed into where even small type is too wide. */
export function countType(said: string, room_px: number): { size: number; pressed: number | undefined } {
  const width = (size: number) => said.length * size * 0.53 + 2;
  if (width(15) <= room_px) return { size: 15, pressed: undefined };
  return { size: 12, pressed: width(12) > room_px ? Math.max(8, room_px - 2) : undefined };
}

/** How far a pin leans: even with the deviation, the limit at LEAN_AT_LIMIT_PX, never past the most. */
export const LEAN_AT_LIMIT_PX = 9;
const LEAN_MOST_PX = 26;

export function leanPx(deviation_ms: number, limit_ms: number): number {
  const lean = (deviation_ms / limit_ms) * LEAN_AT_LIMIT_PX;
  return Math.max(-LEAN_MOST_PX, Math.min(LEAN_MOST_PX, lean));
}
