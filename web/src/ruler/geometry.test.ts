import { describe, expect, it } from "vitest";

import type { Measure } from "../api/client";
import { LEAN_AT_LIMIT_PX, countType, holds, layRows, leanPx, smallestGap, xOf } from "./geometry";

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
    ticks: [],
  }));

describe("rows", () => {
  it("keeps printed lines where they fit", () => {
    expect(layRows(bars(8, 4, 4), 720, 0.5).map((row) => row.measures.length)).toEqual([4, 4]);
  });
  it("breaks lines at bars on a phone, and gives every bar to exactly one row", () => {
    const rows = layRows(bars(8, 4, 4), 370, 0.25);
    expect(rows.flatMap((row) => row.measures.map((m) => m.number))).toEqual(["1", "2", "3", "4", "5", "6", "7", "8"]);
    expect(rows.length).toBeGreaterThan(2);
    for (const row of rows) expect(xOf(row, row.end)).toBeLessThanOrEqual(370);
  });
  it("begins a row anew where the playing order jumps back", () => {
    const twice = [...bars(2, 4, 4), ...bars(3, 4, 4)].map((bar, i) => ({
      ...bar,
      start_quarters: 4 * i,
      pass_number: i < 2 ? 1 : 2,
    }));
    expect(layRows(twice, 1200, 0.5).map((row) => row.measures.map((m) => m.number))).toEqual([
      ["1", "2"],
      ["1", "2", "3"],
    ]);
  });
  it("puts an instant on a bar line into the later row", () => {
    const [first, second] = layRows(bars(8, 4, 4), 720, 0.5);
    expect(first && holds(first, 16)).toBe(false);
    expect(second && holds(second, 16)).toBe(true);
  });
});

describe("pins", () => {
  it("lean left when early, right when late, and no further than the most", () => {
    expect(leanPx(-50, 50)).toBe(-LEAN_AT_LIMIT_PX);
    expect(leanPx(25, 50)).toBe(LEAN_AT_LIMIT_PX / 2);
    expect(leanPx(9999, 50)).toBe(leanPx(99999, 50));
  });
});

describe("counts", () => {
  it("are set smaller, then pressed, as room runs out", () => {
    expect(countType("trip", 60)).toEqual({ size: 15, pressed: undefined });
    expect(countType("trip", 29)).toEqual({ size: 12, pressed: undefined });
    expect(countType("trip", 17).pressed).toBe(15);
  });
});

describe("a line with a pickup", () => {
  it("is one row where its length fits, however many bars it names", () => {
    const [first, ...rest] = bars(5, 3, 5);
    const line = [{ ...(first as Measure), length_quarters: 1 }, ...rest].map((m, i) => ({
      ...m,
      start_quarters: i ? 1 + 3 * (i - 1) : 0,
    }));
    expect(layRows(line, 13 * 51 + 40, 1 / 3).map((row) => row.measures.length)).toEqual([5]);
    expect(layRows(line, 8 * 51 + 40, 1 / 3).map((row) => row.measures.length)).toEqual([3, 2]);
  });
});

it("finds the smallest gap", () => {
  expect(smallestGap([0, 1, 1.25, 2])).toBe(0.25);
  expect(smallestGap([])).toBe(1);
});
