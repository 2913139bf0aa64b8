// @vitest-environment node
import { describe, expect, it } from "vitest";

import { chosen, goesRound, measuresOf, moved, passageWords, roundWords, spotOf, takenWords } from "./passage";

const bars = ["0", "1", "2", "3"].map((number) => ({ number }));

describe("a spot of a bar", () => {
  it("lies in the score where its bars do", () => {
    const starts = [0, 4, 8].map((start_quarters) => ({ start_quarters }));
    expect(spotOf(starts, { from: 1, to: 2 }, "3..1/2")).toEqual({ from_quarters: 7, to_quarters: 8.5 });
    expect(spotOf(starts, null, "1..0")).toEqual({ from_quarters: 1, to_quarters: 8 });
    expect(spotOf(starts, null, null)).toBeNull();
    expect(spotOf(starts, null, "?")).toBeNull();
  });

  it("is told of a take", () => {
    expect(takenWords("3-4", 4, "3..0")).toBe("a spot of bars 3–4, four times round");
    expect(takenWords(null, 1, null)).toBe("");
  });
});

describe("a passage", () => {
  it("of one or two bars goes round, and so does a piece that has no more", () => {
    const passages = [null, { from: 1, to: 1 }, { from: 1, to: 2 }, { from: 1, to: 3 }];
    expect(passages.map((one) => goesRound(bars, one))).toEqual([false, true, true, false]);
    expect(goesRound(bars.slice(0, 2), null)).toBe(true);
    expect([takenWords(null, 1), takenWords("3", 1), takenWords("3-4", 4)]).toEqual([
      "",
      "bar 3",
      "bars 3–4, four times round",
    ]);
    expect([1, 2, 4, 8].map(roundWords)).toEqual(["", ", twice round", ", four times round", ", eight times round"]);
  });

  it("is named as it is asked for, and in words", () => {
    expect([measuresOf(bars, null), passageWords(bars, null)]).toEqual([null, "whole piece"]);
    expect([measuresOf(bars, { from: 0, to: 0 }), passageWords(bars, { from: 0, to: 0 })]).toEqual(["0", "bar 0"]);
    expect([measuresOf(bars, { from: 1, to: 3 }), passageWords(bars, { from: 1, to: 3 })]).toEqual(["1-3", "bars 1–3"]);
    expect(measuresOf(bars, { from: 1, to: 9 })).toBeNull();
  });

  it("moves within the piece, as long as it is", () => {
    expect(moved(null, 1, 4)).toEqual({ from: 0, to: 0 });
    expect(moved(null, -1, 4)).toEqual({ from: 3, to: 3 });
    expect(moved({ from: 2, to: 3 }, 1, 4)).toEqual({ from: 2, to: 3 });
    expect(moved({ from: 1, to: 2 }, -1, 4)).toEqual({ from: 0, to: 1 });
  });

  it("is one bar, grows to another, and is given up by the same bar again", () => {
    expect(chosen(null, 2, false)).toEqual({ from: 2, to: 2 });
    expect(chosen({ from: 2, to: 2 }, 0, true)).toEqual({ from: 0, to: 2 });
    expect(chosen({ from: 2, to: 2 }, 2, false)).toBeNull();
    expect(chosen({ from: 1, to: 2 }, 2, false)).toEqual({ from: 2, to: 2 });
  });
});
