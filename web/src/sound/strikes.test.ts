// @vitest-environment node
import { describe, expect, it } from "vitest";

import { StrikeMeter, powerOf } from "./strikes";

const BANDS = 12;
const FRESH_MS = 20;
const SOON_MS = 120;

/** Pseudo-random from 0 to 1, the same in every run (a linear congruential generator; Numerical Recipes). */
function dice(seed: number) {
  let state = seed;
  return () => (state = (1664525 * state + 1013904223) % 2 ** 32) / 2 ** 32;
}

/** Noise in a band: the mean power of its bins, more of them in every higher one; a bin's is distributed exponentially. */
function noise(of: () => number, band: number): number {
  const bins = Math.ceil(2 * 2 ** (band / 2));
  let power = 0;
  for (let bin = 0; bin < bins; bin++) power -= Math.log(1 - of());
  return power / bins;
}

type Sound = (at_ms: number, band: number) => number;

/** Hears from one time to another; gives when strikes were heard. */
function hears(meter: StrikeMeter, from_ms: number, to_ms: number, sound: Sound): number[] {
  const struck_ms = new Set<number>();
  for (let at_ms = from_ms; at_ms < to_ms; at_ms += FRESH_MS) {
    const power = Array.from({ length: BANDS }, (_, band) => sound(at_ms, band));
    const { count } = meter.strikes;
    meter.hear(at_ms, power);
    if (meter.strikes.count > count) struck_ms.add(at_ms);
  }
  return [...struck_ms];
}

/** Every strike was heard soon, and nothing else was. */
function expectHeard(struck_ms: readonly number[], every_ms: number, from_ms: number, to_ms: number): void {
  for (let at_ms = from_ms; at_ms < to_ms; at_ms += every_ms)
    expect(struck_ms.some((one) => one >= at_ms && one < at_ms + SOON_MS)).toBe(true);
  expect(struck_ms.filter((one) => one < from_ms || one >= to_ms || (one - from_ms) % every_ms >= 200)).toEqual([]);
}

/** A room for two seconds, then the recording begins. */
function begun(room: Sound): StrikeMeter {
  const meter = new StrikeMeter();
  hears(meter, 0, 2000, room);
  meter.begin();
  return meter;
}

const hiss = (power: number, seed = 1): Sound => {
  const of = dice(seed);
  return (_, band) => power * noise(of, band);
};

/** Legato: always one key down, as loud as the one before, each in bands of its own. */
const legato =
  (room: Sound, every_ms: number, until_ms = Infinity): Sound =>
  (at_ms, band) => {
    const key = Math.floor(Math.min(at_ms, until_ms - 1) / every_ms);
    const since_ms = at_ms - key * every_ms;
    const isIn = (band + 2 * key) % 5 < 2;
    return room(at_ms, band) + (isIn ? 1e-4 * Math.exp(-since_ms / 900) : 1e-9);
  };

describe("strikes heard while one plays", () => {
  it("are told under a sound that goes on, as loud as it", () => {
    const room = hiss(1e-9);
    const meter = begun(room);
    expectHeard(hears(meter, 2000, 12_000, legato(room, 500)), 500, 2000, 12_000);
  });

  it("end with the last one, while it dies away", () => {
    const room = hiss(1e-9);
    const meter = begun(room);
    expectHeard(hears(meter, 2000, 12_000, legato(room, 500, 6000)), 500, 2000, 6000);
  });

  it.each([120, 250, 700])("are told as knocks, every %i ms", (every_ms) => {
    const room = hiss(1e-8);
    const meter = begun(room);
    const end_ms = 2000 + 10 * every_ms;
    const knocks: Sound = (at_ms, band) => room(at_ms, band) + 1e-3 * Math.exp(-((at_ms - 2000) % every_ms) / 12);
    expectHeard(hears(meter, 2000, end_ms, knocks), every_ms, 2000, end_ms);
    expect(meter.strikes.count).toBe(10);
  });

  it("are none in a room, nor in a noise that began after it was looked at", () => {
    const meter = begun(hiss(1e-8));
    hears(meter, 2000, 20_000, hiss(1e-8, 5));
    expect(meter.strikes.count).toBe(0);
    hears(meter, 20_000, 21_000, hiss(1e-6, 6)); // it begins: that may be one
    const { count } = meter.strikes;
    expect(count).toBeLessThanOrEqual(2);
    hears(meter, 21_000, 40_000, hiss(1e-6, 7));
    expect(meter.strikes.count).toBe(count);
  });

  it("are told in a second round as in the first, though the room was played in until then", () => {
    const room = hiss(1e-9);
    const meter = begun(room);
    hears(meter, 2000, 12_000, legato(room, 500));
    meter.begin();
    expect(meter.strikes).toEqual({ count: 0, last_ms: undefined });
    expectHeard(hears(meter, 12_000, 22_000, legato(room, 500)), 500, 12_000, 22_000);
    meter.forget();
    expect(meter.isFed(22_000)).toBe(false);
    meter.begin();
    expect(meter.strikes.count).toBe(0);
  });

  it("are not known where nothing is told of the sound", () => {
    const meter = begun(hiss(1e-9));
    expect(meter.isFed(2100)).toBe(true);
    expect(meter.isFed(3100)).toBe(false);
  });
});

describe("the power of a band", () => {
  it("is the sum of its bins, whatever the sample rate", () => {
    const decibels = new Float32Array(1024).fill(-Infinity);
    expect(powerOf(decibels, 48_000)).toEqual(Array<number>(BANDS).fill(0));
    decibels[Math.round(1000 / (24_000 / 1024))] = -20;
    const powers = powerOf(decibels, 48_000);
    // 150 · 2^(5/2) = 849 to 150 · 2^3 = 1200 Hz
    expect(powers.map((one) => one > 0).indexOf(true)).toBe(5);
    expect(powers[5]).toBeCloseTo(0.01, 6);
    expect(powerOf(new Float32Array(1024).fill(-30), 8000).length).toBe(10);
  });
});
