/**
 * One session at the instrument, free of any framework: count in, play along or take down taps, stop on
 * silence, send, and count in again. The schedule and the judgement come from the server; here are only
 * keys, time stamps and sound.
 */
import { ApiError, type Schedule, type Take, type TakeCreate } from "../../api/client";
import { forgetPending, keepPending, newClientKey } from "../../lib/pending";
import type { Exactness } from "../../sound/exactness";
import type { Mix } from "../../sound/mix";
import { type Sounding, cursorAt, stretchAt } from "../../sound/player";

export type Phase = "idle" | "playing" | "recording" | "sending" | "between";
export type Settings = Omit<TakeCreate, "taps" | "first_beat_s" | "client_key" | "measures"> & { measures: string | null };

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
  loadSchedule: (mode: "playing" | "recording") => Promise<Schedule>;
  sendTake: (take: TakeCreate) => Promise<Take>;
  onCursor: (onset: number | null) => void;
};

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
  counting: null, role: null, stretch: 0, stretches: 0, remarks: [], playing: null, exactness: null,
  phase: "idle", saying: null, taps: 0, round: 0, rounds: 0, problem: null, unsent: null, take: null,
};
const BETWEEN_MS = 2200;
/** After this much more than the usual silence without a single tap, nobody is there. */
const NOBODY_S = 4;

export class PracticeSession {
  private state: State = REST;
  private listeners = new Set<() => void>();
  private config: Config | null = null;
  private active: Config | null = null; // that of what is playing, though another piece may be on the screen
  private schedule: Schedule | null = null;
  private taps: { stamp_ms: number; hand: "right" | "left" }[] = [];
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
    this.set({ problem: null, remarks: [], playing: { pieceId: config.pieceId, title: config.title } });
    try {
      await this.sound.wake();
      const schedule = await config.loadSchedule(mode);
      await this.sound.load(schedule);
      if (mine !== this.turn) return;
      this.schedule = schedule;
      this.active = config;
      this.taps = [];
      this.set({ remarks: schedule.remarks, stretches: schedule.stretches.length });
      if (mode === "recording") this.set({ taps: 0, round: this.state.round + 1 });
      this.sound.start(schedule, mode === "recording" ? takeSounding(config) : { mix: config.mix });
      this.set({ phase: mode });
      this.watch(mode);
    } catch (problem) {
      if (mine === this.turn) this.set({ problem, phase: "idle" });
    }
  }

  private watch(mode: "playing" | "recording"): void {
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
    if (saying !== this.state.saying || role !== this.state.role || counting !== this.state.counting || index !== this.state.stretch) {
      this.set({ saying, role, counting, stretch: index, exactness: this.sound.exactness() });
    }
    if (this.config?.pieceId === config.pieceId) this.config.onCursor(cursorAt(schedule, now));
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
    this.set({ phase, saying: null, counting: null, role: null });
  }

  private finish(): void {
    const { active: config, schedule } = this;
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

/** Play-along ends with the passage; a take ends with the silence after its last tap. */
export function isOver(mode: "playing" | "recording", schedule: Schedule, now_s: number, lastTap_s: number | undefined): boolean {
  if (mode === "playing") return now_s > schedule.end_s + 0.3;
  if (now_s <= schedule.first_beat_s) return false;
  if (lastTap_s === undefined) return now_s - schedule.first_beat_s > schedule.silence_s + NOBODY_S;
  return now_s - Math.max(lastTap_s, schedule.first_beat_s) > schedule.silence_s;
}

/** While a take is recorded only the count-in is said, and the click goes on if it is wanted. */
function takeSounding(config: Config): Sounding {
  const mix: Mix = { ...config.mix, muted: { ...config.mix.muted, count: false, click: false }, said: { strike: true, hold: true, rest: true } };
  return { mix, only: (sound) => sound.is_count_in || (sound.track === "click" && config.clickThrough) };
}
