// @vitest-environment node
import { describe, expect, it } from "vitest";

import type { MapKey } from "../api/client";
import { type Step, heard, stepAt, stepsOf, tapped } from "./liningUp";

const key = (hand: "right" | "left", name: string, pitch: number | null): MapKey => ({
  hand,
  name,
  pitch,
  finger: null,
  note_id: name,
});
const C4 = key("right", "C4", 60);
const E4 = key("right", "E4", 64);
const C3 = key("left", "C3", 48);

const step = (over: Partial<Step>): Step => ({
  onset_quarters: 0,
  place: "bar 1",
  letter: "T",
  struck: [C4, C3],
  held: [],
  lifted: [],
  ...over,
});
const keys = (down: number[], fresh = down) => ({ down: new Set(down), fresh: new Set(fresh) });

describe("the steps", () => {
  const event = (onset_quarters: number, letter: "T" | "R" | "L") => ({
    onset_quarters,
    place: "",
    letter,
    struck: [C4],
    held: [],
  });
  const steps = stepsOf({
    events: [event(0, "T"), event(1, "R"), event(2, "L")],
    lifts: [
      { onset_quarters: 1, place: "", keys: [C3] },
      { onset_quarters: 1.5, place: "", keys: [E4] },
      { onset_quarters: 3, place: "", keys: [C4] },
    ],
  });

  it("tell what was let go since the strike before, up to this one; what comes after the last is the end", () => {
    expect(steps.map((one) => one.lifted.map(({ name }) => name))).toEqual([[], ["C3"], ["E4"]]);
  });

  it("begin at the last strike that is not after the place", () => {
    expect([0, 0.5, 1, 1.9, 99].map((onset) => stepAt(steps, onset))).toEqual([0, 0, 1, 1, 2]);
    expect(stepAt([], 3)).toBe(0);
  });
});

describe("at a keyboard it goes on", () => {
  it("when just the right keys are down", () => {
    expect(heard(step({}), keys([60])).on).toBe(false);
    expect(heard(step({}), keys([60, 48]))).toEqual({ on: true, extra: [] });
  });

  it("not by a hit by chance with others", () => {
    expect(heard(step({}), keys([60, 48, 62]))).toEqual({ on: false, extra: [62] });
  });

  it("while what is held is down, or no more", () => {
    const holding = step({ letter: "R", struck: [E4], held: [C3] });
    expect(heard(holding, keys([48, 64], [64])).on).toBe(true);
    expect(heard(holding, keys([64])).on).toBe(true);
  });

  it("not by a key that is still down from before: it is struck anew", () => {
    expect(heard(step({ letter: "R", struck: [C4] }), keys([60], [])).on).toBe(false);
  });

  it("never where the notes have no keys", () => {
    expect(heard(step({ struck: [key("right", "", null)] }), keys([])).on).toBe(false);
  });
});

describe("by tapping it goes on", () => {
  it("when the hands that strike have tapped", () => {
    expect(tapped(step({}), new Set(["right"] as const)).on).toBe(false);
    expect(tapped(step({}), new Set(["right", "left"] as const)).on).toBe(true);
    expect(tapped(step({ letter: "L" }), new Set(["left"] as const)).on).toBe(true);
  });

  it("not by the other hand, which is said", () => {
    expect(tapped(step({ letter: "L" }), new Set(["right"] as const))).toEqual({ on: false, extra: [-1] });
  });
});
