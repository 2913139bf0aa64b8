/**
 * One session at the instrument, free of any framework: count in, play along or take down taps, stop on
 * silence, send, and count in again. The schedule and the judgement come from the server; here are only
 * keys, time stamps and sound.
 */
import { ApiError, type Schedule, type Take, type TakeCreate } from "../../api/client";
import { forgetPending, keepPending, newClientKey } from "../../lib/pending";
import { type Sounding, cursorAt } from "../../sound/player";

export type Phase = "idle" | "playing" | "recording" | "sending" | "between";
export type Settings = Omit<TakeCreate, "taps" | "first_beat_s" | "client_key" | "measures"> & { measures: string | null };

/** What a session needs of the sound: the real one is sound/player.ts, tests have their own. */
export type Sound = {
  wake(): Promise<void>;
  start(schedule: Schedule, sounding: Sounding): void;
  stop(): void;
  now_s(): number;
  at_s(timeStamp_ms: number): number;
  hold(): void;
};

export type Config = {
  pieceId: number;
  settings: Settings;
  sounding: Sounding;
  loadSchedule: () => Promise<Schedule>;
  sendTake: (take: TakeCreate) => Promise<Take>;
  onCursor: (onset: number | null) => void;
};

export type State = {
  phase: Phase;
  /** The last count-in word heard, while counting in. */
  saying: string | null;
  taps: number;
  round: number;
  rounds: number;
  problem: unknown;
  unsent: TakeCreate | null;
  take: Take | null;
};

const REST: State = { phase: "idle", saying: null, taps: 0, round: 0, rounds: 0, problem: null, unsent: null, take: null };
const BETWEEN_MS = 2200;
/** After this much more than the usual silence without a single tap, nobody is there. */
const NOBODY_S = 4;

export class PracticeSession {
  private state: State = REST;
  private listeners = new Set<() => void>();
  private config: Config | null = null;
  private schedule: Schedule | null = null;
  private taps: { stamp_ms: number; hand: "right" | "left" }[] = [];
  private turn = 0; // every start and stop makes what is still under way out of date
  private timer: ReturnType<typeof setTimeout> | undefined;
  private frame = 0;

  constructor(private readonly sound: Sound) {}

  configure(config: Config): void {
    this.config = config;
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

  /** Ends what is going on; a take that has taps is sent. */
  stop(): void {
    this.set({ rounds: 0 });
    if (this.state.phase === "recording") this.finish();
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

  private async begin(mode: "playing" | "recording"): Promise<void> {
    const config = this.config;
    if (!config) return;
    this.silence("idle");
    const mine = this.turn;
    this.set({ problem: null });
    try {
      await this.sound.wake();
      const schedule = await config.loadSchedule();
      if (mine !== this.turn) return;
      this.schedule = schedule;
      this.taps = [];
      if (mode === "recording") this.set({ taps: 0, round: this.state.round + 1 });
      this.sound.start(schedule, mode === "recording" ? { ...config.sounding, knocks: "none" } : config.sounding);
      this.set({ phase: mode });
      this.watch(mode);
    } catch (problem) {
      if (mine === this.turn) this.set({ problem, phase: "idle" });
    }
  }

  private watch(mode: "playing" | "recording"): void {
    const { schedule, config } = this;
    if (!schedule || !config) return;
    const now = this.sound.now_s();
    if (mode === "recording" && now >= schedule.first_beat_s) this.sound.hold();
    const word = schedule.clicks.findLast((click) => click.is_count_in && click.at_s <= now);
    const saying = now < schedule.first_beat_s ? (word?.say ?? "…") : null;
    if (saying !== this.state.saying) this.set({ saying });
    config.onCursor(cursorAt(schedule, now));
    const last = this.taps.at(-1);
    if (isOver(mode, schedule, now, last && this.sound.at_s(last.stamp_ms))) {
      if (mode === "recording") this.finish();
      else this.silence("idle");
    } else this.frame = requestAnimationFrame(() => this.watch(mode));
  }

  private silence(phase: Phase): void {
    this.turn += 1;
    cancelAnimationFrame(this.frame);
    clearTimeout(this.timer);
    this.sound.stop();
    this.config?.onCursor(null);
    this.set({ phase, saying: null });
  }

  private finish(): void {
    const { config, schedule } = this;
    // All stamps are turned into the take's time together, so that they keep their distances.
    const taps = this.taps
      .map(({ stamp_ms, hand }) => ({ t: this.sound.at_s(stamp_ms), hand }))
      .filter((tap) => tap.t >= 0)
      .sort((a, b) => a.t - b.t);
    this.silence("idle");
    if (!config || !schedule) return;
    if (taps.length === 0) {
      const todo = "After the count-in, tap F with the left hand and J with the right.";
      this.set({ rounds: 0, problem: new ApiError(0, "no-taps", "Nothing was tapped, so no take was made.", null, null, todo) });
      return;
    }
    void this.send({ ...config.settings, taps, first_beat_s: schedule.first_beat_s, client_key: newClientKey() });
  }

  private async send(take: TakeCreate): Promise<void> {
    const config = this.config;
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

/** Play-along ends with the passage; a take ends with the silence after its last tap. */
export function isOver(mode: "playing" | "recording", schedule: Schedule, now_s: number, lastTap_s: number | undefined): boolean {
  if (mode === "playing") return now_s > schedule.end_s + 0.3;
  if (now_s <= schedule.first_beat_s) return false;
  if (lastTap_s === undefined) return now_s - schedule.first_beat_s > schedule.silence_s + NOBODY_S;
  return now_s - Math.max(lastTap_s, schedule.first_beat_s) > schedule.silence_s;
}
