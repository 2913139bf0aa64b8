/**
 * One session at the instrument, free of any framework: count in, play along or take down taps, stop on
 * silence, send, and count in again. The schedule and the judgement come from the server; here are only
 * keys, time stamps and sound.
 */
import { ApiError, type Schedule, type Take, type TakeCreate } from "../api/client";
import { forgetPending, keepPending, newClientKey } from "./pending";
import type { Exactness } from "../sound/exactness";
import type { Mix } from "../sound/mix";
import { type StandInNote, messagesOf, zoneOf } from "../sound/keyboard";
import { type Sounding, cursorAt, stretchAt } from "../sound/player";

export type Phase = "idle" | "playing" | "recording" | "listening" | "sending" | "between";
export type Settings = Omit<
  TakeCreate,
  "taps" | "notes" | "pedal" | "stand_in" | "first_beat_s" | "client_key" | "measures"
> & { measures: string | null };

/** What runs: the play-along, a take, or the teacher's listening. */
export type Mode = "playing" | "recording" | "listening";

/** What a session needs of the sound: the real one is sound/player.ts, tests have their own. */
export type Sound = {
  wake(): Promise<void>;
  load(schedule: Schedule): Promise<void>;
  level(mix: Mix): void;
  exactness(): Exactness;
  start(schedule: Schedule, sounding: Sounding): void;
  stop(): void;
  now_s(): number;
  at_s(timeStamp_ms: number): number;
  hold(): void;
};

export type Config = {
  pieceId: number;
  title: string;
  settings: Settings;
  mix: Mix;
  /** Does the click go on after the count-in while a take is recorded? */
  clickThrough: boolean;
  loadSchedule: (mode: Mode) => Promise<Schedule>;
  sendTake: (take: TakeCreate) => Promise<Take>;
  /** The slips that the teacher marked while somebody played. */
  sendHeard?: (heard: Heard) => Promise<unknown>;
  /** What the stand-in keyboard will play, if it is the one that is chosen. */
  loadStandIn?: () => Promise<StandInNote[] | null>;
  /** Where the stand-in's messages go: the same way as a keyboard's. */
  standIn?: (data: readonly number[], stamp_ms: number) => void;
  onCursor: (onset: number | null) => void;
};

export type Heard = Settings & { slips: number[]; first_beat_s: number; client_key: string };

type Key = { stamp_ms: number; pitch: number; velocity: number; released_ms: number | null };

export type State = {
  phase: Phase;
  /** The last count-in word heard, while counting in. */
  saying: string | null;
  /** The count heard now, while playing along. */
  counting: string | null;
  /** Whose turn it is, while playing along; and which stretch of the schedule. */
  role: Stretch["role"] | null;
  stretch: number;
  stretches: number;
  /** What is not as chosen, and why. */
  remarks: readonly string[];
  /** The piece that is playing, or was last. */
  playing: { pieceId: number; title: string } | null;
  exactness: Exactness | null;
  taps: number;
  round: number;
  rounds: number;
  problem: unknown;
  unsent: TakeCreate | null;
  take: Take | null;
};

type Stretch = Schedule["stretches"][number];

const REST: State = {
  counting: null,
  role: null,
  stretch: 0,
  stretches: 0,
  remarks: [],
  playing: null,
  exactness: null,
  phase: "idle",
  saying: null,
  taps: 0,
  round: 0,
  rounds: 0,
  problem: null,
  unsent: null,
  take: null,
};
const BETWEEN_MS = 2200;
/** A slip at the very end is still to be marked. */
const LISTEN_ON_S = 3;
/** When the first beat of what the stand-in plays falls on its own clock. */
export const STAND_IN_LEAD_S = 2;
/** After this much more than the usual silence without a single tap, nobody is there. */
const NOBODY_S = 4;

export class PracticeSession {
  private state: State = REST;
  private listeners = new Set<() => void>();
  private config: Config | null = null;
  private active: Config | null = null; // that of what is playing, though another piece may be on the screen
  private schedule: Schedule | null = null;
  private taps: { stamp_ms: number; hand: "right" | "left" }[] = [];
  private keys: Key[] = [];
  private pedals: { stamp_ms: number; down: boolean }[] = [];
  private slips: number[] = [];
  private byStandIn = false;
  private standInTimers: ReturnType<typeof setTimeout>[] = [];
  private turn = 0; // every start and stop makes what is still under way out of date
  private timer: ReturnType<typeof setTimeout> | undefined;
  private frame = 0;

  constructor(private readonly sound: Sound) {}

  configure(config: Config): void {
    const before = this.config;
    this.config = config;
    if (this.active?.pieceId !== config.pieceId) return;
    this.active = { ...this.active, mix: config.mix };
    if (this.state.phase === "playing" && before?.mix !== config.mix) this.sound.level(config.mix);
  }

  /** The screen with this piece goes away: what plays goes on, what is recorded ends. */
  leave(): void {
    if (this.state.phase !== "playing") this.discard();
    if (this.config) this.config = { ...this.config, onCursor: () => undefined };
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = (): State => this.state;

  private set(part: Partial<State>): void {
    this.state = { ...this.state, ...part };
    for (const listener of this.listeners) listener();
  }

  play(): void {
    void this.begin("playing");
  }

  record(rounds: number): void {
    this.set({ round: 0, rounds, take: null });
    void this.begin("recording");
  }

  /** Counts in and follows, while somebody plays and the teacher marks what she hears. */
  listen(): void {
    this.set({ round: 0, rounds: 0, take: null });
    void this.begin("listening");
  }

  /** The teacher heard a slip now. */
  slip(timeStamp_ms: number): void {
    if (this.state.phase !== "listening") return;
    this.slips.push(timeStamp_ms);
    this.set({ taps: this.slips.length });
  }

  /** A key of a keyboard: a note of the take, or on a rung that is tapped a tap of its half. */
  note(pitch: number, velocity: number, timeStamp_ms: number): void {
    if (this.state.phase !== "recording") return;
    if (this.active?.settings.rung !== "play") {
      this.tap(zoneOf(pitch), timeStamp_ms);
      return;
    }
    this.keys.push({ stamp_ms: timeStamp_ms, pitch, velocity, released_ms: null });
    this.set({ taps: this.keys.length });
  }

  release(pitch: number, timeStamp_ms: number): void {
    const key = this.keys.findLast((one) => one.pitch === pitch && one.released_ms === null);
    if (key) key.released_ms = timeStamp_ms;
  }

  pedal(down: boolean, timeStamp_ms: number): void {
    if (this.state.phase === "recording") this.pedals.push({ stamp_ms: timeStamp_ms, down });
  }

  /** Ends what is going on; a take that has taps, and what was heard, is sent. */
  stop(): void {
    this.set({ rounds: 0 });
    if (this.state.phase === "recording") this.finish();
    else if (this.state.phase === "listening") this.finishListening();
    else if (this.state.phase !== "sending") this.silence("idle");
  }

  /** Ends what is going on and throws a take away. */
  discard(): void {
    this.set({ rounds: 0 });
    if (this.state.phase !== "sending") this.silence("idle");
  }

  tap(hand: "right" | "left", timeStamp_ms: number): void {
    if (this.state.phase !== "recording") return;
    this.taps.push({ stamp_ms: timeStamp_ms, hand });
    this.set({ taps: this.taps.length });
  }

  sendAgain(): void {
    if (this.state.unsent) void this.send(this.state.unsent);
  }

  private async begin(mode: Mode): Promise<void> {
    const config = this.config;
    if (!config) return;
    this.silence("idle");
    const mine = this.turn;
    this.set({ problem: null, remarks: [], playing: { pieceId: config.pieceId, title: config.title } });
    try {
      await this.sound.wake();
      const schedule = await config.loadSchedule(mode);
      const standIn = mode === "recording" ? await config.loadStandIn?.() : null;
      await this.sound.load(schedule);
      if (mine !== this.turn) return;
      this.schedule = schedule;
      this.active = config;
      this.taps = [];
      this.keys = [];
      this.pedals = [];
      this.slips = [];
      this.set({ remarks: schedule.remarks, stretches: schedule.stretches.length });
      if (mode !== "playing") this.set({ taps: 0, round: this.state.round + 1 });
      this.sound.start(schedule, mode === "playing" ? { mix: config.mix } : takeSounding(config));
      this.set({ phase: mode });
      this.byStandIn = Boolean(standIn);
      if (standIn) this.playStandIn(standIn, schedule);
      this.watch(mode);
    } catch (problem) {
      if (mine === this.turn) this.set({ problem, phase: "idle" });
    }
  }

  private watch(mode: Mode): void {
    const { schedule, active: config } = this;
    if (!schedule || !config) return;
    const now = this.sound.now_s();
    if (mode === "recording" && now >= schedule.first_beat_s) this.sound.hold();
    const word = schedule.words.findLast((one) => one.at_s <= now);
    const saying = now < schedule.first_beat_s ? (word?.say ?? "…") : null;
    const stretch = stretchAt(schedule, now);
    const role = stretch?.role ?? null;
    const index = stretch ? schedule.stretches.indexOf(stretch) : 0;
    const counting = word?.say ?? null;
    if (
      saying !== this.state.saying ||
      role !== this.state.role ||
      counting !== this.state.counting ||
      index !== this.state.stretch
    ) {
      this.set({ saying, role, counting, stretch: index, exactness: this.sound.exactness() });
    }
    if (this.config?.pieceId === config.pieceId) this.config.onCursor(cursorAt(schedule, now));
    const last = this.taps.at(-1) ?? this.keys.at(-1);
    if (isOver(mode, schedule, now, last && this.sound.at_s(last.stamp_ms))) {
      if (mode === "recording") this.finish();
      else if (mode === "listening") this.finishListening();
      else this.silence("idle");
    } else this.frame = requestAnimationFrame(() => this.watch(mode));
  }

  private silence(phase: Phase): void {
    this.turn += 1;
    cancelAnimationFrame(this.frame);
    clearTimeout(this.timer);
    for (const timer of this.standInTimers) clearTimeout(timer);
    this.standInTimers = [];
    this.sound.stop();
    this.config?.onCursor(null);
    this.set({ phase, saying: null, counting: null, role: null });
  }

  private finish(): void {
    const { active: config, schedule } = this;
    // All stamps are turned into the take's time together, so that they keep their distances.
    const taps = this.taps
      .map(({ stamp_ms, hand }) => ({ t: this.sound.at_s(stamp_ms), hand }))
      .filter((tap) => tap.t >= 0)
      .sort((a, b) => a.t - b.t);
    const notes = this.keys
      .map((key) => ({
        t: this.sound.at_s(key.stamp_ms),
        pitch: key.pitch,
        velocity: key.velocity,
        released: key.released_ms === null ? null : Math.max(0, this.sound.at_s(key.released_ms)),
      }))
      .filter((note) => note.t >= 0)
      .sort((a, b) => a.t - b.t);
    const pedal = this.pedals.map(({ stamp_ms, down }) => ({ t: Math.max(0, this.sound.at_s(stamp_ms)), down }));
    this.silence("idle");
    if (!config || !schedule) return;
    if (taps.length === 0 && notes.length === 0) {
      const onKeys = config.settings.rung === "play";
      const what = onKeys ? "Nothing was played, so no take was made." : "Nothing was tapped, so no take was made.";
      const todo = onKeys
        ? "Choose the keyboard below, press one of its keys, and see whether it is heard."
        : "After the count-in, tap F with the left hand and J with the right.";
      this.set({ rounds: 0, problem: new ApiError(0, "no-taps", what, null, null, todo) });
      return;
    }
    const played = notes.length
      ? { taps: [], notes, pedal, stand_in: this.byStandIn }
      : { taps, notes: [], pedal: [], stand_in: false };
    void this.send({ ...config.settings, ...played, first_beat_s: schedule.first_beat_s, client_key: newClientKey() });
  }

  /** The stand-in's messages at their times, through the keyboard's own way in. */
  private playStandIn(notes: readonly StandInNote[], schedule: Schedule): void {
    const send = this.active?.standIn;
    if (!send) return;
    const first = schedule.first_beat_s - STAND_IN_LEAD_S;
    const stampOf = (at_s: number) => performance.now() + (at_s - this.sound.at_s(performance.now())) * 1000;
    for (const { at_s, data } of messagesOf(notes)) {
      const stamp_ms = stampOf(first + at_s);
      this.standInTimers.push(setTimeout(() => send(data, stamp_ms), Math.max(0, stamp_ms - performance.now())));
    }
  }

  private finishListening(): void {
    const { active: config, schedule } = this;
    const slips = this.slips.map((stamp_ms) => this.sound.at_s(stamp_ms)).filter((at_s) => at_s >= 0);
    this.silence("idle");
    if (!config?.sendHeard || !schedule) return;
    this.set({ phase: "sending" });
    config
      .sendHeard({ ...config.settings, slips, first_beat_s: schedule.first_beat_s, client_key: newClientKey() })
      .then(
        () => this.set({ phase: "idle", problem: null }),
        (problem: unknown) => this.set({ phase: "idle", problem }),
      );
  }

  private async send(take: TakeCreate): Promise<void> {
    const config = this.active;
    if (!config) return;
    this.set({ phase: "sending" });
    keepPending({ pieceId: config.pieceId, take });
    try {
      const stored = await config.sendTake(take);
      forgetPending(take.client_key);
      this.set({ take: stored, unsent: null, problem: null });
      if (this.state.round < this.state.rounds) {
        this.set({ phase: "between" });
        this.timer = setTimeout(() => void this.begin("recording"), BETWEEN_MS);
      } else this.set({ phase: "idle" });
    } catch (problem) {
      // What the server refuses it will refuse again; what it never got is kept on this device.
      const refused = problem instanceof ApiError && problem.status >= 400 && problem.status < 500;
      if (refused) forgetPending(take.client_key);
      this.set({ problem, unsent: refused ? null : take, phase: "idle", rounds: 0 });
    }
  }
}

/** What a piece's screen shows of it: nothing while another piece plays or was played. */
export function stateFor(state: State, pieceId: number): State {
  return state.playing === null || state.playing.pieceId === pieceId ? state : REST;
}

/** Play-along ends with the passage, and listening soon after it; a take ends with the silence after its last tap. */
export function isOver(mode: Mode, schedule: Schedule, now_s: number, lastTap_s: number | undefined): boolean {
  if (mode === "playing") return now_s > schedule.end_s + 0.3;
  if (mode === "listening") return now_s > schedule.end_s + LISTEN_ON_S;
  if (now_s <= schedule.first_beat_s) return false;
  if (lastTap_s === undefined) return now_s - schedule.first_beat_s > schedule.silence_s + NOBODY_S;
  return now_s - Math.max(lastTap_s, schedule.first_beat_s) > schedule.silence_s;
}

/** While a take is recorded only the count-in is said, and the click goes on if it is wanted. */
function takeSounding(config: Config): Sounding {
  const mix: Mix = {
    ...config.mix,
    muted: { ...config.mix.muted, count: false, click: false },
    said: { strike: true, hold: true, rest: true },
  };
  return { mix, only: (sound) => sound.is_count_in || (sound.track === "click" && config.clickThrough) };
}
