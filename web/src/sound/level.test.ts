// @vitest-environment node
import { describe, expect, it } from "vitest";

import { LevelMeter, momentOf } from "./level";

const sine = (size: number, count = 2048) => Float32Array.from({ length: count }, (_, i) => size * Math.sin(i / 7));

/** A room of hiss, and strikes that die away. */
function played(meter: LevelMeter, seconds: number, strikes_ms: readonly number[], size: number, room = 0.001) {
  for (let at_ms = 0; at_ms < 1000 * seconds; at_ms += 20) {
    const last = strikes_ms.findLast((one) => one <= at_ms);
    const rms = room + (last === undefined ? 0 : size * Math.exp(-(at_ms - last) / 300));
    meter.hear(at_ms, { rms, peak: 3 * rms, clipped: 3 * rms > 1 });
  }
}

describe("the level", () => {
  it("is measured of samples", () => {
    const { peak, rms, clipped } = momentOf(sine(0.5));
    expect(peak).toBeCloseTo(0.5, 3);
    expect(rms).toBeCloseTo(0.5 / Math.SQRT2, 2);
    expect(clipped).toBe(false);
    expect(momentOf(sine(2).map((one) => Math.max(-1, Math.min(1, one)))).clipped).toBe(true);
    expect(momentOf(new Float32Array())).toEqual({ peak: 0, rms: 0, clipped: false });
  });

  it.each([
    ["deaf", 0, 0, []],
    ["waiting", 0, 0.001, []],
    ["too-quiet", 0.008, 0.001, [2000]],
    ["good", 0.1, 0.001, [2000]],
    ["clipping", 0.5, 0.001, [2000]],
  ] as const)("is told in a word: %s", (word, size, room, strikes) => {
    const meter = new LevelMeter();
    played(meter, 3, strikes, size, room);
    expect(meter.heard().loudness).toBe(word);
  });

  it("tells a loud room", () => {
    const meter = new LevelMeter();
    played(meter, 3, [], 0, 0.05);
    expect(meter.heard()).toMatchObject({ loudness: "waiting", isRoomLoud: true });
  });

  it("keeps the room of before the playing, however long that goes on", () => {
    const meter = new LevelMeter();
    played(meter, 3, [], 0);
    meter.begin();
    for (let at_ms = 3000; at_ms < 15_000; at_ms += 20) meter.hear(at_ms, { rms: 0.1, peak: 0.3, clipped: false });
    expect(meter.heard()).toMatchObject({ loudness: "good", isRoomLoud: false });
    meter.end();
    expect(meter.heard()).toMatchObject({ loudness: "waiting", isRoomLoud: true });
  });
});
