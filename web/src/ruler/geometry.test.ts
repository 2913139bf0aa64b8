// @vitest-environment node
import { describe, expect, it } from "vitest";

import type { Count, Measure } from "../api/client";
import { LEAN_AT_LIMIT_PX, holds, layRows, leanPx, shownWord, thinnedBars, typeAt, weightOf, xOf } from "./geometry";
import { wordWidth } from "./letters";

const bars = (count: number, length: number, perLine: number): Measure[] =>
  Array.from({ length: count }, (_, i) => ({
    number: String(i + 1),
    pass_number: 1,
    line: Math.floor(i / perLine) + 1,
    bar_in_line: (i % perLine) + 1,
    signature: "4/4",
    start_quarters: i * length,
    length_quarters: length,
    letter: "A",
    cue: "",
    chords: [],
    ticks: Array.from({ length: length * 4 }, (_, at) => ({
      offset_quarters: at / 4,
      depth: at === 0 ? 0 : at % 4 === 0 ? 2 : at % 2 === 0 ? 3 : 4,
    })),
  }));

const THIRDS = ["", "trip", "let"];
const WORDS = ["1", "e", "&", "a"];
const counts = (measures: Measure[], perQuarter: (measure: Measure) => number): Count[] =>
  measures.flatMap((m) => {
    const parts = perQuarter(m);
    return Array.from({ length: m.length_quarters * parts }, (_, i) => ({
      measure: m.number,
      offset: String(i / parts),
      is_changed: false,
      onset_quarters: m.start_quarters + i / parts,
      say: (i % parts === 0 ? String(1 + i / parts) : parts === 3 ? THIRDS[i % 3] : WORDS[(i % parts) % 4]) ?? "",
      kind: "strike" as const,
      is_beat: i % parts === 0,
    }));
  });

const lay = (measures: Measure[], width: number, parts: number | ((measure: Measure) => number), type_px = 20) =>
  layRows(measures, width, { counts: counts(measures, typeof parts === "number" ? () => parts : parts), type_px });

describe("rows", () => {
  it("keep printed lines where they fit, and fill the width", () => {
    const rows = lay(bars(8, 4, 4), 760, 2);
    expect(rows.map((row) => row.measures.length)).toEqual([4, 4]);
    for (const row of rows) expect(xOf(row, row.end)).toBeCloseTo(746);
  });
  it("break lines at bars on a phone, and give every bar to exactly one row", () => {
    const rows = lay(bars(8, 4, 4), 358, 4);
    expect(rows.flatMap((row) => row.measures.map((m) => m.number))).toEqual(["1", "2", "3", "4", "5", "6", "7", "8"]);
    for (const row of rows) expect(xOf(row, row.end)).toBeLessThanOrEqual(358);
  });
  it("begin anew where the playing order jumps back", () => {
    const twice = [...bars(2, 4, 4), ...bars(3, 4, 4)].map((bar, i) => ({
      ...bar,
      start_quarters: 4 * i,
      pass_number: i < 2 ? 1 : 2,
    }));
    expect(lay(twice, 1200, 2).map((row) => row.measures.map((m) => m.number))).toEqual([
      ["1", "2"],
      ["1", "2", "3"],
    ]);
  });
  it("put an instant on a bar line into the later row", () => {
    const [first, second] = lay(bars(8, 4, 4), 760, 2);
    expect(first && holds(first, 16)).toBe(false);
    expect(second && holds(second, 16)).toBe(true);
  });
  it("give one crowded bar more room, and the others one scale", () => {
    const [row] = lay(bars(4, 4, 4), 1400, (m) => (m.number === "2" ? 8 : 1));
    const widths = row?.bars.map((bar) => Math.round(bar.width)) ?? [];
    expect(row?.bars.every((bar) => bar.type_px === 20)).toBe(true);
    expect(widths[1]).toBeGreaterThan(2 * (widths[0] ?? 0));
    expect(new Set([widths[0], widths[2], widths[3]]).size).toBe(1);
  });
  it("never leave a bar alone on half a row", () => {
    const line = bars(3, 3, 2);
    expect(lay(line, 760, 1).map((row) => row.measures.length)).toEqual([3]);
    const [only] = lay(bars(1, 3, 4), 760, 1);
    expect(only?.bars[0]?.width).toBe(732);
  });
  it("stay within the width, whatever is said and how large", () => {
    for (const type of [20, 32, 44])
      for (const width of [332, 360, 640, 820, 1180])
        for (const parts of [1, 2, 3, 4, 8]) {
          for (const row of lay(bars(7, 4, 3), width, parts, type)) expect(xOf(row, row.end)).toBeLessThan(width);
        }
  });
});

describe("words", () => {
  it("never overprint: they are set smaller, then left out, the weak ones first", () => {
    for (const width of [200, 332, 500, 900]) {
      for (const parts of [2, 3, 4, 8]) {
        const measures = bars(4, 4, 4);
        const said = counts(measures, () => parts);
        const rows = layRows(measures, width, { counts: said, type_px: 20 });
        for (const row of rows) {
          let end = 0;
          for (const count of said.filter((one) => holds(row, one.onset_quarters))) {
            const { size, isLeftOut } = typeAt(row, count.onset_quarters);
            if (isLeftOut) continue;
            const x = xOf(row, count.onset_quarters);
            expect(x).toBeGreaterThanOrEqual(end - 1e-6);
            end = x + wordWidth(shownWord(count), weightOf(count)) * size;
            expect(size).toBeGreaterThanOrEqual(16);
          }
        }
        if (parts < 8 && width > 400) expect(thinnedBars(rows)).toEqual([]);
        if (parts === 8 && width === 200) {
          expect(thinnedBars(rows)).toEqual(["1", "2", "3", "4"]);
          const [row] = rows;
          for (const beat of [0, 1, 2, 3]) expect(row && typeAt(row, beat).isLeftOut).toBe(false);
        }
      }
    }
  });
  it("need room for what is announced at their bar", () => {
    const measures = bars(4, 1, 4);
    const units = new Map([[2, "count dotted quarters"]]);
    const [row] = layRows(measures, 900, { counts: counts(measures, () => 1), type_px: 20, units });
    expect(row?.bars[2]?.width).toBeGreaterThan(140);
  });
});

describe("pins", () => {
  it("lean left when early, right when late, and no further than the most", () => {
    expect(leanPx(-50, 50)).toBe(-LEAN_AT_LIMIT_PX);
    expect(leanPx(25, 50)).toBe(LEAN_AT_LIMIT_PX / 2);
    expect(leanPx(9999, 50)).toBe(leanPx(99999, 50));
  });
});
