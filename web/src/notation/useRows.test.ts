// @vitest-environment node
import { describe, expect, it } from "vitest";

import { wantedRows } from "./useRows";

const page = {
  shares: Array<number>(20).fill(0.2),
  items: Array.from({ length: 20 }, (_, row) => [`n${row}`, `r${row}`]),
};

describe("the lines that are drawn", () => {
  it("are the first before anything is known of what is in sight", () => {
    expect([...wantedRows(page, new Set(), [], true)]).toEqual([0, 1, 2, 3, 4, 5]);
  });

  it("are those in sight, and where something needed stands", () => {
    expect([...wantedRows(page, new Set([9, 10]), ["n3", "r17", "gone"], true)]).toEqual([9, 10, 3, 17]);
  });

  it("are all where nobody can tell what is in sight, and none that a page no longer has", () => {
    expect(wantedRows(page, new Set(), [], false).size).toBe(20);
    expect([...wantedRows({ shares: [0.2], items: [[]] }, new Set([0, 7]), [], true)]).toEqual([0]);
    expect(wantedRows(undefined, new Set([1]), ["n1"], true).size).toBe(0);
  });
});
