// @vitest-environment node
import { describe, expect, it } from "vitest";

import { TakeClock } from "./takeClock";

const clock = new TakeClock([
  { played_s: 2.02, onset_quarters: 0 },
  { played_s: 2, onset_quarters: 0 },
  { played_s: 3, onset_quarters: 1 },
  { played_s: 5, onset_quarters: 2 },
]);

describe("the clock of a take", () => {
  it.each([
    [1.9, null],
    [2, 0],
    [2.5, 0.5],
    [4, 1.5],
    [5.5, 2],
    [6.5, null],
  ])("at %d s is at %s", (at_s, onset) => {
    expect(clock.onsetAt(at_s)).toBe(onset);
  });

  it("tells when a place was played", () => {
    expect([0, 0.5, 2, 2.5].map((one) => clock.playedAt(one))).toEqual([2, 3, 5, null]);
    expect(new TakeClock([]).onsetAt(1)).toBe(null);
  });

  it("waits where it went back", () => {
    const back = new TakeClock([
      { played_s: 1, onset_quarters: 4 },
      { played_s: 3, onset_quarters: 2 },
      { played_s: 4, onset_quarters: 5 },
    ]);
    expect(back.onsetAt(2)).toBe(4);
    expect(back.onsetAt(3.5)).toBe(3.5);
  });
});
