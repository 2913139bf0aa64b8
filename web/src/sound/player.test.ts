import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Schedule } from "../api/client";
import { startMix } from "./mix";
import { LIMITER_S, Player } from "./player";

/** An audio clock that stands still when told to, beside the page's clock that never does. */
const clocks = { page_ms: 0, audio_s: 0, lag_s: 0.04 };

class FakeContext {
  state = "running";
  sampleRate = 48000;
  destination = {};
  get currentTime() {
    return clocks.audio_s;
  }
  getOutputTimestamp = () => ({ contextTime: clocks.audio_s - clocks.lag_s, performanceTime: clocks.page_ms });
}
class FakeNode {
  gain = { setTargetAtTime: vi.fn() };
  connect = (to: unknown) => to;
}

const schedule: Schedule = {
  bpm: 60,
  first_beat_s: 4,
  end_s: 8,
  silence_s: 2,
  sounds: [],
  samples: {},
  words: [],
  cursor: [],
  stretches: [],
  remarks: [],
  ending: null,
  tone: { partials: [1], release_s: 0.04, level: 0.2, pitches: {} },
};

/** The lead, the way out of the machine, and the limiter. */
const BEHIND_S = 0.25 + 0.04 + LIMITER_S;

const mix = startMix({ click: 0.6, strike: 1, hold: 1, rest: 1, backing: 0.6, right: 0.8, left: 0.8, cue: 1 });

function pass(seconds: number, player: Player, audioToo = true): void {
  for (let frame = 0; frame < seconds * 60; frame++) {
    clocks.page_ms += 1000 / 60;
    if (audioToo) clocks.audio_s += 1 / 60;
    player.now_s();
  }
}

beforeEach(() => {
  Object.assign(clocks, { page_ms: 5000, audio_s: 1 });
  vi.stubGlobal("AudioContext", FakeContext);
  vi.stubGlobal("DynamicsCompressorNode", FakeNode);
  vi.stubGlobal("GainNode", FakeNode);
  vi.spyOn(performance, "now").mockImplementation(() => clocks.page_ms);
});

afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

async function started(): Promise<Player> {
  const player = new Player();
  await player.wake();
  player.start(schedule, { mix });
  return player;
}

describe("the clocks", () => {
  it("say what is heard now: the lead and the way out of the machine are taken off", async () => {
    const player = await started();
    pass(2, player);
    expect(player.now_s()).toBeCloseTo(2 - BEHIND_S, 6);
  });

  it("follow a sound that faltered, as long as nothing is recorded", async () => {
    const player = await started();
    pass(2, player);
    pass(1, player, false);
    pass(6, player);
    expect(player.now_s()).toBeCloseTo(8 - BEHIND_S, 6);
  });

  it("keep their relation once held, so that a tap stays where it was played", async () => {
    const player = await started();
    pass(4.5, player);
    player.hold();
    const stamp_ms = clocks.page_ms;
    const before = player.at_s(stamp_ms);
    pass(1, player, false);
    pass(6, player);
    expect(player.at_s(stamp_ms)).toBe(before);
    expect(player.now_s()).toBeCloseTo(before + 7, 6);
  });

  it("read anew for the next take", async () => {
    const player = await started();
    pass(4.5, player);
    player.hold();
    pass(1, player, false);
    player.start(schedule, { mix });
    pass(2, player);
    expect(player.now_s()).toBeCloseTo(2 - BEHIND_S, 6);
  });
});
