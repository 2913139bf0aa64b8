import { describe, expect, it } from "vitest";

import type { Schedule } from "../api/client";
import { TapTempo } from "../session/tapTempo";
import { ClickMeasure } from "./exactness";
import { gainOf, levelsText, startMix } from "./mix";
import { cursorAt, stretchAt } from "./player";

const usual = { click: 0.6, strike: 1, hold: 1, rest: 1, backing: 0.6, right: 0.8, left: 0.8, cue: 1 };

describe("the mix", () => {
  it("starts at half volume, backing silent", () => {
    const mix = startMix(usual);
    expect([mix.volume, gainOf(mix, "backing"), gainOf(mix, "click"), gainOf(mix, "rest")]).toEqual([0.5, 0, 0.6, 1]);
  });

  it("mutes a kind of count alone, and the count as one", () => {
    const mix = startMix(usual);
    const quietHolds = { ...mix, said: { ...mix.said, hold: false } };
    expect([gainOf(quietHolds, "strike"), gainOf(quietHolds, "hold")]).toEqual([1, 0]);
    const noCount = { ...mix, muted: { ...mix.muted, count: true } };
    expect(["strike", "hold", "rest"].map((track) => gainOf(noCount, track as "strike"))).toEqual([0, 0, 0]);
  });

  it("goes into a file as it is heard", () => {
    expect(levelsText(startMix(usual)).split(",").sort()).toEqual([
      "backing:0",
      "click:60",
      "cue:100",
      "hold:100",
      "left:80",
      "rest:100",
      "right:80",
      "strike:100",
    ]);
  });
});

describe("tap-tempo", () => {
  it("is the median of the gaps, from the third tap on", () => {
    const taps = new TapTempo();
    expect([taps.tap(0), taps.tap(500)]).toEqual([null, null]);
    expect(taps.tap(1000)).toBeCloseTo(120);
    expect(taps.tap(1900)).toBeCloseTo(120); // one late tap moves nothing
    expect(taps.tap(2400)).toBeCloseTo(120);
  });

  it("begins anew after a pause", () => {
    const taps = new TapTempo();
    for (const at of [0, 500, 1000]) taps.tap(at);
    expect([taps.tap(9000), taps.tap(10000)]).toEqual([null, null]);
    expect(taps.tap(11000)).toBeCloseTo(60);
  });
});

describe("the measure of clicks", () => {
  it("keeps the furthest, and counts what was never heard", () => {
    const measure = new ClickMeasure();
    for (const at of [1, 2, 3, 4]) measure.expect(at);
    measure.hear(1.0001);
    measure.hear(2.003);
    measure.hear(2.4); // no click is expected there
    measure.hear(4);
    const found = measure.result();
    expect([found.clicks, found.missed]).toEqual([3, 1]);
    expect(found.furthest_ms).toBeCloseTo(3);
  });

  it("sees two clocks drift apart", () => {
    const measure = new ClickMeasure();
    for (let second = 0; second <= 300; second++) measure.clocks(second, 5 + second * 1e-5);
    const { minutes, drift_ms } = measure.result();
    expect(minutes).toBeCloseTo(5);
    expect(drift_ms).toBeGreaterThan(2); // 3 ms, but for the medians at both ends
    expect(drift_ms).toBeLessThan(3);
  });
});

const points = (...list: [number, number][]) => list.map(([at_s, onset_quarters]) => ({ at_s, onset_quarters }));

describe("the cursor", () => {
  const schedule = {
    cursor: points([4, 0], [5, 1], [6, 2], [6, 0], [7, 1], [10, 0], [11, 1]),
    stretches: [
      { role: "model", start_s: 0, first_beat_s: 4, end_s: 7 },
      { role: "room", start_s: 7, first_beat_s: 10, end_s: 11 },
    ],
  } as Schedule;

  it("moves evenly, jumps back, and waits between two rounds", () => {
    expect([3.9, 4.5, 6, 6.5, 8, 10.5, 12].map((at) => cursorAt(schedule, at))).toEqual([
      null,
      0.5,
      0,
      0.5,
      null,
      0.5,
      null,
    ]);
  });

  it("knows whose turn it is", () => {
    expect([0, 6.9, 7, 10.9].map((at) => stretchAt(schedule, at)?.role)).toEqual(["model", "model", "room", "room"]);
  });
});
