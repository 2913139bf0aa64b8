import { beforeEach, describe, expect, it, vi } from "vitest";

import { ApiError, type Schedule, type TakeAdded, type TakeCreate } from "../api/client";
import { pendingTakes } from "./pending";
import { startMix } from "../sound/mix";
import type { Sounding } from "../sound/player";
import type { BeatBy } from "../sound/microphone";
import type { Ear, Recorded } from "./ear";
import { PracticeSession, type Playback, type StandIn } from "./practice";
import type { Server } from "./server";
import { type Desk, type Struck, isOver, soundingOf, stateFor } from "./state";

const schedule: Schedule = {
  bpm: 60,
  first_beat_s: 4,
  end_s: 8,
  silence_s: 2,
  sounds: [],
  samples: {},
  tone: { partials: [1], release_s: 0.04, level: 0.2, pitches: {} },
  remarks: [],
  ending: null,
  words: [{ at_s: 0, say: "1", is_count_in: true }],
  stretches: [{ role: "play", start_s: 0, first_beat_s: 4, end_s: 8, first_measure: "1", last_measure: "1", bpm: 60 }],
  cursor: [
    { at_s: 4, onset_quarters: 0 },
    { at_s: 8, onset_quarters: 4 },
  ],
};

class FakeSound implements Playback {
  time = 0;
  wake = () => Promise.resolve();
  load = () => Promise.resolve();
  level = vi.fn();
  exactness = () => ({ clicks: 0, missed: 0, furthest_ms: 0, minutes: 0, drift_ms: 0 });
  start = vi.fn<(schedule: Schedule, sounding: Sounding) => void>();
  stop = vi.fn();
  hold = vi.fn();
  say = vi.fn(() => Promise.resolve());
  prepare = vi.fn();
  now_s = () => this.time;
  at_s = (stamp: number) => stamp / 1000;
}

class FakeEar implements Ear {
  chosen = false;
  by: BeatBy = "aloud";
  count = 0;
  last_ms: number | undefined = undefined;
  lost = false;
  isChosen = () => this.chosen;
  beatBy = () => this.by;
  open = vi.fn(() => Promise.resolve());
  start = vi.fn(() => Promise.resolve());
  isBlind = false;
  struck = () => (this.isBlind ? null : { count: this.count, last_ms: this.last_ms });
  isLost = () => this.lost;
  stop = vi.fn<Ear["stop"]>(() =>
    this.count || this.isBlind
      ? Promise.resolve({ shelved: { key: "k" }, sound: new Blob(["x"]) } as Recorded)
      : Promise.reject(new ApiError(0, "nothing-heard", "Nothing was struck.", null, null, null)),
  );
  drop = vi.fn();
  forget = vi.fn(() => Promise.resolve());
  close = vi.fn();
}

const desk: Desk = {
  pieceId: 7,
  hasClaps: false,
  work: "free",
  settings: {
    activity: "lap",
    bpm: 60,
    hands: "both",
    measures: null,
    times_round: 1,
    density: "beat",
    compound: "auto",
  },
  title: "Thimble",
  student: { id: 3, name: "Aila" },
  bars: [{ start_quarters: 0, number: "1", bar_in_line: 1 }],
  mix: startMix({ click: 0.6, strike: 1, hold: 1, rest: 1, backing: 0.6, right: 0.8, left: 0.8, cue: 1 }),
  beat: "click",
  playing: { bpm: 60 } as Desk["playing"],
  plainly: true,
  standIn: null,
  rung: null,
  isSpoken: true,
  likely: [],
  intro: [],
  isHeardOnly: false,
  onward: () => Promise.resolve({ desk, say: [] }),
};

function set(sendTake: (take: TakeCreate) => Promise<TakeAdded>, arranged: Partial<Desk> = {}) {
  const sound = new FakeSound();
  const server = {
    loadSchedule: vi.fn<Server["loadSchedule"]>(() => Promise.resolve(schedule)),
    loadStandIn: vi.fn<Server["loadStandIn"]>(() =>
      Promise.resolve([{ t: 2, pitch: 60, velocity: 64, released: 2.02 }]),
    ),
    sendTake: (_: number, take: TakeCreate) => sendTake(take),
    sendSound: vi.fn<Server["sendSound"]>((_, onStage) => {
      onStage("listening");
      return Promise.resolve({ id: 3, state: "judged", next: null } as TakeAdded);
    }),
    sendHeard: vi.fn<Server["sendHeard"]>((_, heard) =>
      Promise.resolve({ slips: heard.slips.map((at) => ({ onset_quarters: at, place_text: "" })) }),
    ),
  };
  const standIn = { isChosen: vi.fn(() => false), send: vi.fn<StandIn["send"]>() };
  const ear = new FakeEar();
  const session = new PracticeSession(sound, server, standIn, ear);
  session.arrange({ ...desk, ...arranged });
  return { session, sound, server, standIn, ear };
}

const until = (session: PracticeSession, phase: string) =>
  vi.waitFor(() => expect(session.snapshot().phase).toBe(phase));

beforeEach(() => localStorage.clear());

describe("a take", () => {
  it("is sent with the taps at their own times when silence follows", async () => {
    const sent: TakeCreate[] = [];
    const { session, sound } = set((take) => {
      sent.push(take);
      return Promise.resolve({ id: 1, state: "judged" } as TakeAdded);
    });
    session.record(1);
    await until(session, "recording");
    session.tap("left", 4010);
    session.tap("right", 4512);
    sound.time = 4.6;
    await new Promise((done) => setTimeout(done, 60));
    expect(session.snapshot().phase).toBe("recording");
    expect(sound.hold).toHaveBeenCalled();
    sound.time = 6.6;
    await until(session, "idle");
    expect(sent[0]?.taps).toEqual([
      { t: 4.01, hand: "left" },
      { t: 4.512, hand: "right" },
    ]);
    expect(sent[0]?.first_beat_s).toBe(4);
    expect(pendingTakes()).toEqual([]);
    const only = sound.start.mock.calls[0]?.[1].only;
    const one = { at_s: 5, sound: "word:1", level: 1, length_s: 0.1, is_count_in: false } as const;
    expect([
      only?.({ ...one, track: "strike" }),
      only?.({ ...one, track: "strike", is_count_in: true }),
      only?.({ ...one, track: "click" }),
      only?.({ ...one, track: "right" }),
    ]).toEqual([false, true, true, false]);
  });

  it("that the server never got stays on the device and can be sent again", async () => {
    let fails = true;
    const { session } = set(() =>
      fails
        ? Promise.reject(new ApiError(0, "offline", "no", null, null, null))
        : Promise.resolve({ id: 2, state: "judged" } as TakeAdded),
    );
    session.record(3);
    await until(session, "recording");
    session.tap("left", 4100);
    session.stop();
    await vi.waitFor(() => expect(session.snapshot().unsent).not.toBeNull());
    expect(pendingTakes()).toHaveLength(1);
    fails = false;
    session.sendAgain();
    await vi.waitFor(() => expect(session.snapshot().take?.id).toBe(2));
    expect(pendingTakes()).toEqual([]);
  });

  it("that the server refuses is not kept for later", async () => {
    const { session } = set(() => Promise.reject(new ApiError(422, "bad-take", "no", null, null, null)));
    session.record(1);
    await until(session, "recording");
    session.tap("left", 4100);
    session.stop();
    await vi.waitFor(() => expect(session.snapshot().problem).not.toBeNull());
    expect(session.snapshot().unsent).toBeNull();
    expect(pendingTakes()).toEqual([]);
  });

  it("is counted in again until the rounds are done", async () => {
    let sent = 0;
    const { session, sound } = set(() => Promise.resolve({ id: ++sent, state: "judged" } as TakeAdded));
    session.record(2);
    for (const round of [1, 2]) {
      sound.time = 0;
      await vi.waitFor(() => expect(session.snapshot()).toMatchObject({ phase: "recording", round }), {
        timeout: 4000,
      });
      session.tap("left", 4100);
      sound.time = 6.5;
      await vi.waitFor(() => expect(sent).toBe(round));
    }
    await until(session, "idle");
    expect(sound.start).toHaveBeenCalledTimes(2);
  });

  it("without taps is no take", async () => {
    const { session } = set(() => Promise.reject(new Error("must not be sent")));
    session.record(1);
    await until(session, "recording");
    session.stop();
    expect((session.snapshot().problem as ApiError).code).toBe("no-taps");
  });

  it("is thrown away on request", async () => {
    const { session } = set(() => Promise.reject(new Error("must not be sent")));
    session.record(1);
    await until(session, "recording");
    session.tap("left", 4100);
    session.discard();
    expect(session.snapshot()).toMatchObject({ phase: "idle", problem: null });
  });
});

const struck = (last_s: number | undefined, part: Partial<Struck> = {}): Struck => ({
  count: last_s === undefined ? 0 : 1,
  last_s,
  last_pitch: null,
  byKeys: false,
  ...part,
});

describe("the end", () => {
  const ending = { taps: 8, keys: 10, last_s: 7.5, gap_s: 1, last_pitches: [60, 48] };
  const ends = (now_s: number, last_s: number, part: Partial<Struck>) =>
    isOver("recording", { ...schedule, ending }, now_s, struck(last_s, part));

  it("comes as soon as the last tap that is asked for is in", () => {
    expect(ends(7.8, 7.5, { count: 8 })).toBe(false);
    expect(ends(7.95, 7.5, { count: 8 })).toBe(true);
    expect(ends(7.95, 7.5, { count: 7 })).toBe(false);
  });
  it("does not come early for who began again", () => {
    expect(ends(6.5, 6, { count: 9 })).toBe(false);
  });
  it("waits for who is slower than the click, and not for ever for who left something out", () => {
    expect(ends(9.4, 8.8, { count: 7 })).toBe(false);
    expect(ends(9.7, 7.5, { count: 7 })).toBe(true);
  });
  it("waits the whole silence for who began late and stops in the middle", () => {
    const long = { ...schedule, silence_s: 3, ending };
    const stopped = (now_s: number, part: Partial<Struck>) => isOver("recording", long, now_s, struck(9, part));
    expect(stopped(11.9, { count: 5 })).toBe(false);
    expect(stopped(12.1, { count: 5 })).toBe(true);
    expect(stopped(11.9, { count: 7, byKeys: true })).toBe(false);
  });
  it("waits the whole silence for what a microphone hears, whose count tells nothing", () => {
    const long = { ...schedule, silence_s: 3, ending };
    const heard = (now_s: number) => isOver("recording", long, now_s, struck(9, { count: 12, byEar: true }));
    expect(heard(11.9)).toBe(false);
    expect(heard(12.1)).toBe(true);
  });
  it("at the keys is one of the last keys", () => {
    expect(ends(8, 7.5, { count: 10, byKeys: true, last_pitch: 62 })).toBe(false);
    expect(ends(8, 7.5, { count: 10, byKeys: true, last_pitch: 48 })).toBe(true);
  });

  it("waits for the first tap longer than for the next", () => {
    expect(isOver("recording", schedule, 3.9, struck(undefined))).toBe(false);
    expect(isOver("recording", schedule, 6.5, struck(undefined))).toBe(false);
    expect(isOver("recording", schedule, 10.1, struck(undefined))).toBe(true);
    expect(isOver("recording", schedule, 6.1, struck(4))).toBe(true);
    expect(isOver("recording", schedule, 7.9, struck(6))).toBe(false);
    // What was heard in the count-in is no first tap.
    expect(isOver("recording", schedule, 6.5, struck(3))).toBe(false);
    expect(isOver("recording", schedule, 10.1, struck(3))).toBe(true);
  });
  it("of playing along is the end of the passage", () => {
    expect(isOver("playing", schedule, 8.2, struck(undefined))).toBe(false);
    expect(isOver("playing", schedule, 8.4, struck(undefined))).toBe(true);
  });
});

describe("playing along", () => {
  it("belongs to its piece, and goes on when that piece's screen goes away", async () => {
    const { session, sound } = set(() => Promise.reject(new Error("nothing is sent")));
    session.play();
    await until(session, "playing");
    session.leave();
    expect(session.snapshot().phase).toBe("playing");
    expect(stateFor(session.snapshot(), 7).phase).toBe("playing");
    expect(stateFor(session.snapshot(), 8).phase).toBe("idle");
    sound.time = 9;
    await until(session, "idle");
  });

  it("goes on with another tempo though the screen goes away before that sounds; a take that was begun does not", async () => {
    const { session, server } = set(() => Promise.reject(new Error("nothing is sent")));
    session.play();
    await until(session, "playing");
    let come: () => void = () => undefined;
    server.loadSchedule.mockReturnValueOnce(new Promise((done) => (come = () => done(schedule))));
    session.play();
    expect(session.snapshot().phase).toBe("idle");
    session.leave();
    come();
    await until(session, "playing");
    server.loadSchedule.mockReturnValueOnce(new Promise((done) => (come = () => done(schedule))));
    session.record(1);
    session.leave();
    come();
    await new Promise((done) => setTimeout(done));
    expect(session.snapshot().phase).toBe("idle");
  });

  it("is said word by word, with its turns; levels change at once", async () => {
    const { session, sound } = set(() => Promise.reject(new Error("nothing is sent")));
    session.play();
    await until(session, "playing");
    await vi.waitFor(() => expect(session.snapshot().saying).toBe("1"));
    sound.time = 5;
    await vi.waitFor(() => expect(session.snapshot().saying).toBe(null));
    expect(session.snapshot()).toMatchObject({
      role: "play",
      stretch: 0,
      stretches: 1,
      playing: { pieceId: 7, title: "Thimble", student: 3 },
    });
    session.stop();
  });
});

describe("a desk that is arranged otherwise", () => {
  it("changes levels at once, and counts in anew for another tempo once the choosing has settled", async () => {
    const { session, sound, server } = set(() => Promise.reject(new Error("nothing is sent")));
    session.play();
    await until(session, "playing");
    const mix = { ...desk.mix, volume: 0.9 };
    session.arrange({ ...desk, mix });
    expect(sound.level).toHaveBeenCalledWith(mix);
    for (const bpm of [63, 66]) session.arrange({ ...desk, mix, playing: { ...desk.playing, bpm } });
    expect(server.loadSchedule).toHaveBeenCalledTimes(1);
    await vi.waitFor(() => expect(server.loadSchedule).toHaveBeenCalledTimes(2));
    expect(server.loadSchedule.mock.calls[1]?.[0].playing.bpm).toBe(66);
    session.stop();
  });

  it("for another view of the piece leaves what plays alone, also when a choice was made just before", async () => {
    const { session, server } = set(() => Promise.reject(new Error("nothing is sent")));
    session.play();
    await until(session, "playing");
    const rung = { ...desk, work: "7", playing: { ...desk.playing, bpm: 40 } };
    session.arrange(rung);
    await new Promise((done) => setTimeout(done, 500));
    expect(server.loadSchedule).toHaveBeenCalledTimes(1);
    session.arrange(desk);
    session.arrange({ ...desk, playing: { ...desk.playing, bpm: 66 } });
    session.arrange(rung);
    session.leave();
    await vi.waitFor(() => expect(server.loadSchedule).toHaveBeenCalledTimes(2));
    expect(server.loadSchedule.mock.calls[1]?.[0].playing.bpm).toBe(66);
    await until(session, "playing");
    session.stop();
  });

  it("otherwise while another choice is still coming is followed too, and what is coming can be stopped", async () => {
    const { session, server } = set(() => Promise.reject(new Error("nothing is sent")));
    server.loadSchedule.mockReturnValueOnce(new Promise(() => undefined));
    session.play();
    session.arrange({ ...desk, playing: { ...desk.playing, bpm: 66 } });
    await until(session, "playing");
    expect(server.loadSchedule.mock.calls[1]?.[0].playing.bpm).toBe(66);
    session.stop();
    expect(session.isBusyWith(7)).toBe(false);
    server.loadSchedule.mockReturnValueOnce(new Promise(() => undefined));
    session.play();
    expect([session.isBusyWith(7), session.isBusyWith(8)]).toEqual([true, false]);
    session.stop();
    expect(session.isBusyWith(7)).toBe(false);
  });

  it("of another piece leaves what plays alone, and its cursor goes to the piece that plays", async () => {
    const { session, sound } = set(() => Promise.reject(new Error("nothing is sent")));
    const here = vi.fn();
    const elsewhere = vi.fn();
    session.follow(7, here);
    const end = session.follow(8, elsewhere);
    session.play();
    await until(session, "playing");
    session.arrange({ ...desk, pieceId: 8, mix: { ...desk.mix, volume: 0 } });
    expect(sound.level).not.toHaveBeenCalled();
    sound.time = 6;
    await vi.waitFor(() => expect(here).toHaveBeenCalledWith(2));
    expect(elsewhere.mock.calls.every(([onset]) => onset === null)).toBe(true);
    end();
    elsewhere.mockClear();
    session.stop();
    expect(here).toHaveBeenLastCalledWith(null);
    expect(elsewhere).not.toHaveBeenCalled();
  });
});

describe("at the keys", () => {
  function playing(activity: "play" | "lap") {
    const sent: TakeCreate[] = [];
    const send = (take: TakeCreate) => {
      sent.push(take);
      return Promise.resolve({ id: 1, state: "judged" } as TakeAdded);
    };
    return { ...set(send, { settings: { ...desk.settings, activity } }), sent };
  }

  it("a take has notes with their key-ups and the pedal, and no taps", async () => {
    const { session, sent } = playing("play");
    session.record(1);
    await until(session, "recording");
    session.pedal(true, 3900);
    session.note(60, 70, 4010);
    session.note(64, 50, 4020);
    session.release(60, 4500);
    session.note(60, 60, 4600);
    session.stop();
    await until(session, "idle");
    expect(sent[0]?.notes).toEqual([
      { t: 4.01, pitch: 60, velocity: 70, released: 4.5 },
      { t: 4.02, pitch: 64, velocity: 50, released: null },
      { t: 4.6, pitch: 60, velocity: 60, released: null },
    ]);
    expect(sent[0]).toMatchObject({ taps: [], pedal: [{ t: 3.9, down: true }], stand_in: false });
  });

  it("on a rung that is tapped the keyboard's halves are the two zones", async () => {
    const { session, sent } = playing("lap");
    session.record(1);
    await until(session, "recording");
    session.note(48, 70, 4000);
    session.note(72, 70, 4500);
    session.stop();
    await until(session, "idle");
    expect(sent[0]?.taps).toEqual([
      { t: 4, hand: "left" },
      { t: 4.5, hand: "right" },
    ]);
  });

  it("the stand-in's messages come at their times on the keyboard's own way", async () => {
    const { session, sound, standIn } = playing("play");
    standIn.isChosen.mockReturnValue(true);
    sound.at_s = (stamp) => stamp / 1000 - performance.now() / 1000 + 3.99; // now is just before the first beat at 4 s
    session.record(1);
    await until(session, "recording");
    await vi.waitFor(() => expect(standIn.send).toHaveBeenCalledTimes(2));
    expect(standIn.send.mock.calls.map(([data]) => data)).toEqual([
      [0x90, 60, 64],
      [0x80, 60, 0],
    ]);
    expect((standIn.send.mock.calls[1]?.[1] ?? 0) - (standIn.send.mock.calls[0]?.[1] ?? 0)).toBeCloseTo(20, 0);
    session.discard();
  });
});

describe("what is heard of the beat while a take is recorded", () => {
  it.each([
    ["click", ["click"]],
    ["backing", ["backing"]],
    ["none", []],
  ] as const)("%s", (beat, heard) => {
    const { only, mix } = soundingOf("recording", { ...desk, beat });
    const tracks = ["click", "backing", "right", "strike"] as const;
    const of = (is_count_in: boolean) =>
      tracks.filter((track) => only?.({ at_s: 1, track, sound: "", level: 1, length_s: 0, is_count_in }));
    expect(of(false)).toEqual(heard);
    expect(of(true)).toEqual(tracks);
    expect([mix.muted.click, mix.muted.backing]).toEqual([false, false]);
  });
});

describe("listening", () => {
  it("keeps the slips with the count-in's beat, and nothing else", async () => {
    const { session, server } = set(() => Promise.reject(new Error("no take is sent")));
    session.slip(100); // nothing runs yet
    session.listen();
    await until(session, "listening");
    session.slip(5200);
    session.tap("left", 5300);
    session.slip(6100);
    expect(session.snapshot().taps).toBe(2);
    session.stop();
    await until(session, "idle");
    const kept = expect.objectContaining({ slips: [5.2, 6.1], first_beat_s: 4, bpm: 60 });
    expect(server.sendHeard).toHaveBeenCalledWith(7, kept);
    expect(session.snapshot().heard).toBe(2);
    session.told();
    expect(session.snapshot().heard).toBeNull();
  });

  it("ends by itself soon after the passage", () => {
    expect([
      isOver("listening", schedule, 9, struck(undefined)),
      isOver("listening", schedule, 11.5, struck(undefined)),
    ]).toEqual([false, true]);
  });
});

describe("a take by the microphone", () => {
  const byEar = (arranged: Partial<Desk> = {}) => {
    const all = set(() => Promise.reject(new Error("no taps are sent")), arranged);
    all.ear.chosen = true;
    return all;
  };

  it("ends in the silence after what was heard, and is sent with the time of its first beat", async () => {
    const { session, sound, server, ear } = byEar();
    session.record(1);
    await until(session, "recording");
    expect(ear.start).toHaveBeenCalledOnce();
    [ear.count, ear.last_ms] = [4, 5000];
    sound.time = 6;
    await new Promise((done) => setTimeout(done, 60));
    expect(session.snapshot().phase).toBe("recording");
    sound.time = 7.5;
    await until(session, "idle");
    expect(ear.stop.mock.calls[0]?.[0].first_beat_ms).toBeCloseTo(4000, -1);
    expect(server.sendSound).toHaveBeenCalledOnce();
    expect(session.snapshot()).toMatchObject({ take: { id: 3 }, hearing: null, unsent: null });
  });

  it("goes on by itself, round after round, and stops where a recording could not be judged", async () => {
    const { session, sound, server, ear } = byEar({ isSpoken: false });
    session.record(2);
    await until(session, "recording");
    [ear.count, ear.last_ms, sound.time] = [4, 5000, 8];
    await until(session, "between");
    server.sendSound.mockResolvedValueOnce({ id: 4, state: "failed", next: null } as TakeAdded);
    sound.time = 0;
    await vi.waitFor(() => expect(session.snapshot()).toMatchObject({ phase: "recording", round: 2 }), 4000);
    [ear.last_ms, sound.time] = [5000, 8];
    await until(session, "idle");
    expect(session.snapshot()).toMatchObject({ take: { id: 4 }, rounds: 0 });
  });

  it("is no take where nothing was heard, and says so", async () => {
    const { session, sound, server, ear } = byEar();
    session.record(1);
    await until(session, "recording");
    sound.time = 20;
    await until(session, "idle");
    expect(session.snapshot().problem).toMatchObject({ code: "nothing-heard" });
    expect(ear.stop).toHaveBeenCalledOnce();
    expect(server.sendSound).not.toHaveBeenCalled();
  });

  it("is kept while the server is away, and sent again or thrown away", async () => {
    const { session, sound, server, ear } = byEar();
    server.sendSound.mockRejectedValueOnce(new ApiError(0, "offline", "The server is not there.", null, null, null));
    session.record(3);
    await until(session, "recording");
    [ear.count, ear.last_ms, sound.time] = [4, 5000, 8];
    await vi.waitFor(() => expect(session.snapshot().unsent).toMatchObject({ shelved: { key: "k" } }));
    expect(session.snapshot()).toMatchObject({ phase: "idle", rounds: 0 });
    session.sendAgain();
    await vi.waitFor(() => expect(session.snapshot()).toMatchObject({ unsent: null, take: { id: 3 } }));
    session.throwAway();
    expect(session.snapshot()).toMatchObject({ take: null, next: null });
  });

  it("lasts as long as is written where nothing is told of what sounds", async () => {
    const { session, sound, server, ear } = byEar();
    ear.isBlind = true;
    session.record(1);
    await until(session, "recording");
    sound.time = 8.5;
    await new Promise((done) => setTimeout(done, 60));
    expect(session.snapshot().phase).toBe("recording");
    sound.time = 10.5;
    await until(session, "idle");
    expect(server.sendSound).toHaveBeenCalledOnce();
  });

  it("ends where the microphone goes away, with what it has", async () => {
    const { session, sound, server, ear } = byEar();
    session.record(1);
    await until(session, "recording");
    [ear.count, ear.last_ms, sound.time, ear.lost] = [2, 5000, 5.1, true];
    await until(session, "idle");
    expect(server.sendSound).toHaveBeenCalledOnce();
  });

  it("is not begun where the microphone cannot be had", async () => {
    const { session, sound, ear } = byEar();
    ear.open.mockRejectedValueOnce(new ApiError(0, "no-microphone", "No microphone is there.", null, null, null));
    session.record(1);
    await vi.waitFor(() => expect(session.snapshot().problem).toMatchObject({ code: "no-microphone" }));
    expect(session.snapshot().phase).toBe("idle");
    expect(sound.start).not.toHaveBeenCalled();
  });

  it("does not listen to a count that is tapped", async () => {
    const { session, ear } = byEar({ settings: { ...desk.settings, activity: "count" } });
    session.record(1);
    await until(session, "recording");
    expect(ear.start).not.toHaveBeenCalled();
    session.discard();
  });

  it("hears clicks only where they are sounded aloud, and of knocks none", () => {
    const one = (track: string, is_count_in = false) => ({ track, is_count_in }) as Schedule["sounds"][number];
    const playing = { ...desk, settings: { ...desk.settings, activity: "play" as const } };
    const heard = (d: Desk, by: BeatBy) =>
      [one("click", true), one("click"), one("backing")].map((sound) => soundingOf("recording", d, by).only?.(sound));
    expect(heard(playing, "aloud")).toEqual([true, true, false]);
    expect(heard(desk, "aloud")).toEqual([true, false, false]);
    expect(heard({ ...playing, beat: "backing" }, "aloud")).toEqual([true, false, false]);
    expect(heard({ ...playing, beat: "backing" }, "headphones")).toEqual([true, false, true]);
    expect(heard(playing, "eye")).toEqual([false, false, false]);
    expect(heard({ ...playing, hasClaps: true }, "aloud")).toEqual([true, false, false]);
    expect(heard({ ...playing, hasClaps: true }, "headphones")).toEqual([true, true, false]);
  });
});
