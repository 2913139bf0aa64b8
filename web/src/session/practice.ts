/**
 * One session at the instrument, free of any framework: count in, play along or take down what is played, stop on
 * silence, send, and count in again. The schedule and the judgement come from the server; here are only keys, time
 * stamps and sound. It belongs to the application: a screen arranges its desk and looks on, and may go away.
 */
import { ApiError, type NextStep, type Schedule, type TakeCreate } from "../api/client";
import type { Exactness } from "../sound/exactness";
import { type StandInNote, messagesOf } from "../sound/keyboard";
import type { Mix } from "../sound/mix";
import { type Sounding, cursorAt, stretchAt } from "../sound/player";
import type { BeatBy } from "../sound/microphone";
import type { Ear, Recorded } from "./ear";
import { forgetPending, keepPending, newClientKey } from "./pending";
import { Played } from "./played";
import type { Server } from "./server";
import { type Desk, type Mode, type Phase, REST, type State, isOver, soundingOf } from "./state";

/** What a session needs of the sound: the real one is sound/player.ts, tests have their own. */
export type Playback = {
  wake(): Promise<void>;
  load(schedule: Schedule): Promise<void>;
  level(mix: Mix): void;
  exactness(): Exactness;
  start(schedule: Schedule, sounding: Sounding): void;
  stop(): void;
  now_s(): number;
  at_s(timeStamp_ms: number): number;
  hold(): void;
  /** Says phrases one after the other; resolves when the last was said. ``onStart``: the first one sounds. */
  say(files: readonly string[], volume: number, onStart?: () => void): Promise<void>;
  /** Fetches what will be said. */
  prepare(files: readonly string[]): void;
};

/** The keyboard that is no device: whether it is the one that is chosen, and where its messages go. */
export type StandIn = { isChosen(): boolean; send(data: readonly number[], stamp_ms: number): void };

/** Between the outcome of a round and the next count-in: what was said has sunk in; without words it takes longer. */
const BETWEEN_MS = 2200;
const AFTER_WORDS_MS = 500;
/** The measure of how soon an outcome is heard. */
export const SPOKEN = "outcome-spoken";
/** Another tempo, passage or order while it plays: it counts in anew with it, once the choosing has settled. */
const SETTLE_MS = 350;
/** When the first beat of what the stand-in plays falls on its own clock. */
export const STAND_IN_LEAD_S = 2;

type CursorListener = (onset_quarters: number | null) => void;

export class PracticeSession {
  private state: State = REST;
  private listeners = new Set<() => void>();
  private cursors = new Set<{ pieceId: number; listener: CursorListener }>();
  private desk: Desk | null = null;
  private active: Desk | null = null; // that of what is playing, though another piece may be on the screen
  private schedule: Schedule | null = null;
  private played = new Played(false);
  private byStandIn = false;
  private byEar: BeatBy | null = null; // how the beat is given, where the microphone listens
  private standInTimers: ReturnType<typeof setTimeout>[] = [];
  private turn = 0; // every start and stop makes what is still under way out of date
  private timer: ReturnType<typeof setTimeout> | undefined;
  private ended_ms: number | null = null;
  private settling: ReturnType<typeof setTimeout> | undefined;
  private coming: { mode: Mode; desk: Desk } | null = null; // what was asked for and does not sound yet
  private frame = 0;

  constructor(
    private readonly sound: Playback,
    private readonly server: Server,
    private readonly standIn: StandIn,
    private readonly ear: Ear,
  ) {}

  /** What the next start will be. What plays follows what is chosen otherwise for it; another view of its piece, where
   * something else would be played, leaves it alone. */
  arrange(desk: Desk): void {
    const before = this.desk;
    this.desk = desk;
    const sounding = this.coming?.mode === "playing" ? this.coming.desk : this.active;
    if (sounding?.pieceId !== desk.pieceId) return;
    if (this.active?.pieceId === desk.pieceId) this.active = { ...this.active, mix: desk.mix };
    if (!this.isPlaying()) return;
    if (sounding.mix !== desk.mix) this.sound.level(desk.mix);
    const isSameWork = before?.pieceId === desk.pieceId && before.work === desk.work;
    if (!isSameWork || asked(before) === asked(desk)) return;
    clearTimeout(this.settling);
    this.settling = undefined;
    if (asked(sounding) !== asked(desk)) this.settling = setTimeout(() => this.playOtherwise(desk), SETTLE_MS);
  }

  private playOtherwise(desk: Desk): void {
    this.set({ isGuided: false });
    void this.begin("playing", { ...desk, mix: this.active?.mix ?? desk.mix });
  }

  /** Something plays, or is about to. */
  private isPlaying(): boolean {
    return this.state.phase === "playing" || this.coming?.mode === "playing";
  }

  /** Something of a piece goes on, or is about to, whatever is drawn of it. */
  isBusyWith(pieceId: number): boolean {
    return this.state.playing?.pieceId === pieceId && (this.state.phase !== "idle" || this.coming !== null);
  }

  /** The screen with this piece goes away: what plays, or is about to, goes on; what is recorded ends. */
  leave(): void {
    if (!this.isPlaying()) this.discard();
    this.ear.close();
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = (): State => this.state;

  /** Where in a piece it is, in quarters on the written score; null when nothing runs. Gives what ends the looking. */
  follow(pieceId: number, listener: CursorListener): () => void {
    const one = { pieceId, listener };
    this.cursors.add(one);
    return () => this.cursors.delete(one);
  }

  private set(part: Partial<State>): void {
    this.state = { ...this.state, ...part };
    for (const listener of this.listeners) listener();
  }

  play(): void {
    this.set({ isGuided: false });
    void this.begin("playing");
  }

  record(rounds: number): void {
    this.set({ round: 0, rounds, take: null, next: null, isGuided: false });
    void this.begin("recording");
  }

  /** A session that needs no touch: from rung to rung, each begun with a word of what to do. */
  guide(): void {
    this.set({ round: 0, rounds: 0, take: null, next: null, isGuided: true });
    void this.step();
  }

  /** One step of it: what to do is said, then it is played along with or taken down. */
  private async step(): Promise<void> {
    const desk = this.desk;
    if (!desk) return;
    this.silence("between");
    const mine = this.turn;
    this.set({ rung: desk.rung, round: 0 });
    try {
      await this.sound.wake();
      await this.sound.say(desk.intro, desk.mix.volume);
    } catch {
      // What to do stands on the screen too.
    }
    if (mine === this.turn) void this.begin(desk.isHeardOnly ? "playing" : "recording");
  }

  /** Counts in and follows, while somebody plays and the teacher marks what she hears. */
  listen(): void {
    this.set({ round: 0, rounds: 0, take: null, next: null, isGuided: false });
    void this.begin("listening");
  }

  /** What was kept of a listening has been told. */
  told(): void {
    this.set({ heard: null });
  }

  /** The teacher heard a slip now. */
  slip(timeStamp_ms: number): void {
    if (this.state.phase === "listening") this.struck(() => this.played.slip(timeStamp_ms));
  }

  tap(hand: "right" | "left", timeStamp_ms: number): void {
    if (this.state.phase === "recording") this.struck(() => this.played.tap(hand, timeStamp_ms));
  }

  /** A key of a keyboard: a note of the take, or on a rung that is tapped a tap of its half. */
  note(pitch: number, velocity: number, timeStamp_ms: number): void {
    if (this.state.phase === "recording") this.struck(() => this.played.note(pitch, velocity, timeStamp_ms));
  }

  release(pitch: number, timeStamp_ms: number): void {
    this.played.release(pitch, timeStamp_ms);
  }

  pedal(down: boolean, timeStamp_ms: number): void {
    if (this.state.phase === "recording") this.played.pedal(down, timeStamp_ms);
  }

  private struck(what: () => void): void {
    what();
    this.set({ taps: this.played.count });
  }

  /** Ends what is going on; a take that has taps, and what was heard, is sent. */
  stop(): void {
    this.set({ rounds: 0, isGuided: false });
    if (this.state.phase === "recording") this.finish();
    else if (this.state.phase === "listening") this.finishListening();
    else if (this.state.phase !== "sending") this.silence("idle");
  }

  /** Ends what is going on and throws a take away. */
  discard(): void {
    this.set({ rounds: 0, isGuided: false });
    if (this.state.phase !== "sending") this.silence("idle");
  }

  sendAgain(): void {
    const { unsent } = this.state;
    if (!unsent) return;
    if ("shelved" in unsent) void this.sendSound(unsent);
    else void this.send(unsent);
  }

  private async begin(mode: Mode, desk = this.desk): Promise<void> {
    if (!desk) return;
    this.silence("idle");
    const mine = this.turn;
    this.coming = { mode, desk };
    this.set({
      problem: null,
      remarks: [],
      playing: { pieceId: desk.pieceId, title: desk.title, student: desk.student.id },
    });
    try {
      await this.sound.wake();
      const schedule = await this.server.loadSchedule(desk, mode);
      const isStandIn = mode === "recording" && desk.settings.activity === "play" && this.standIn.isChosen();
      const standIn = isStandIn ? await this.server.loadStandIn(desk) : null;
      const listens = mode === "recording" && !isStandIn && desk.settings.activity !== "count" && this.ear.isChosen();
      if (listens) await this.ear.open();
      await this.sound.load(schedule);
      if (mine !== this.turn) return;
      this.byEar = listens ? this.ear.beatBy() : null;
      this.schedule = schedule;
      this.active = desk;
      this.played = new Played(desk.settings.activity === "play");
      this.set({ rung: desk.rung, remarks: schedule.remarks, stretches: schedule.stretches.length });
      if (mode !== "playing") this.set({ taps: 0, round: this.state.round + 1 });
      this.sound.start(schedule, soundingOf(mode, desk, this.byEar));
      if (listens) await this.ear.start(desk);
      if (mine !== this.turn) {
        if (listens) this.ear.drop(); // it was ended while it began
        return;
      }
      this.coming = null;
      this.set({ phase: mode, isByEar: listens });
      if (desk.isSpoken && mode === "recording") this.sound.prepare(desk.likely);
      this.byStandIn = standIn !== null;
      if (standIn) this.playStandIn(standIn, schedule);
      this.watch(mode);
    } catch (problem) {
      if (mine !== this.turn) return;
      this.silence("idle");
      this.fail(problem);
    }
  }

  private watch(mode: Mode): void {
    const { schedule } = this;
    if (!schedule) return;
    const now = this.sound.now_s();
    if (mode === "recording" && now >= schedule.first_beat_s) this.sound.hold();
    const word = schedule.words.findLast((one) => one.at_s <= now);
    const saying = now < schedule.first_beat_s ? (word?.say ?? "…") : null;
    const stretch = stretchAt(schedule, now);
    const role = stretch?.role ?? null;
    const index = stretch ? schedule.stretches.indexOf(stretch) : 0;
    const counting = word?.say ?? null;
    const onset = cursorAt(schedule, now);
    const bar = onset === null ? null : barAt(this.active, onset);
    const { state } = this;
    if (bar !== state.bar) this.set({ bar });
    if (saying !== state.saying || role !== state.role || counting !== state.counting || index !== state.stretch) {
      this.set({ saying, role, counting, stretch: index, exactness: this.sound.exactness() });
    }
    this.moveCursor(onset);
    const isLost = this.byEar !== null && mode === "recording" && this.ear.isLost();
    if (isLost || isOver(mode, schedule, now, this.struckSoFar())) this.ended(mode);
    else this.frame = requestAnimationFrame(() => this.watch(mode));
  }

  private struckSoFar() {
    if (this.byEar !== null) {
      const struck = this.ear.struck();
      // Where nothing is told of what sounds, the take lasts as long as is written.
      const last_s = struck
        ? struck.last_ms && this.sound.at_s(struck.last_ms)
        : Math.min(this.sound.now_s(), this.schedule?.end_s ?? 0);
      return { count: struck?.count ?? 0, last_s, last_pitch: null, byKeys: false, byEar: true };
    }
    const { count, last_ms, last_pitch, byKeys } = this.played;
    return { count, last_s: last_ms === undefined ? undefined : this.sound.at_s(last_ms), last_pitch, byKeys };
  }

  private ended(mode: Mode): void {
    if (mode === "recording") this.finish();
    else if (mode === "listening") this.finishListening();
    else if (this.state.isGuided && this.active) void this.heardOut(this.active);
    else this.silence("idle");
  }

  /** What was only to be heard, or said along with, is done; the session goes on. */
  private async heardOut(desk: Desk): Promise<void> {
    this.silence("between");
    await this.goOn(desk, null);
  }

  /** After a take, or after what was heard: what is said, and what comes next. */
  private async goOn(desk: Desk, next: NextStep | null): Promise<void> {
    const mine = this.turn;
    this.set({ phase: "between" });
    const saying = this.say(desk, next?.clips.map((clip) => clip.file) ?? []);
    const onward = await desk.onward(next).catch((problem: unknown) => {
      this.set({ problem });
      return { desk: null, say: [] };
    });
    const spoken = await saying;
    if (mine !== this.turn) return;
    if (onward.say.length) await this.say(desk, onward.say);
    if (mine !== this.turn) return;
    if (!onward.desk) {
      this.set({ phase: "idle", rounds: 0, isGuided: false });
      return;
    }
    const isOther = onward.desk.rung !== desk.rung;
    this.desk = onward.desk;
    const begin = () => void (this.state.isGuided && isOther ? this.step() : this.begin("recording"));
    this.timer = setTimeout(begin, spoken ? AFTER_WORDS_MS : BETWEEN_MS);
  }

  /** How long after the end of a take its outcome was heard, in the browser's own list of measures. */
  private spoken(): void {
    if (this.ended_ms !== null) performance.measure(SPOKEN, { start: this.ended_ms, end: performance.now() });
    this.ended_ms = null;
  }

  private async say(desk: Desk, files: readonly string[]): Promise<boolean> {
    if (!desk.isSpoken || !files.length) return false;
    try {
      const said = this.sound.say(files, desk.mix.volume, () => this.spoken());
      await said;
      return true;
    } catch {
      return false; // it stands on the screen too
    }
  }

  private moveCursor(onset_quarters: number | null): void {
    for (const { pieceId, listener } of this.cursors) {
      if (onset_quarters === null || pieceId === this.active?.pieceId) listener(onset_quarters);
    }
  }

  private silence(phase: Phase): void {
    this.turn += 1;
    this.coming = null;
    this.ear.drop();
    this.byEar = null;
    cancelAnimationFrame(this.frame);
    clearTimeout(this.timer);
    clearTimeout(this.settling);
    for (const timer of this.standInTimers) clearTimeout(timer);
    this.standInTimers = [];
    this.sound.stop();
    this.moveCursor(null);
    this.set({ phase, saying: null, counting: null, bar: null, role: null });
  }

  private finish(): void {
    if (this.byEar !== null) {
      void this.finishByEar(this.byEar);
      return;
    }
    const { active: desk, schedule } = this;
    const strikes = this.played.strikes((stamp_ms) => this.sound.at_s(stamp_ms));
    this.ended_ms = performance.now();
    this.silence("idle");
    if (!desk || !schedule) return;
    if (!strikes) {
      this.set({ rounds: 0, isGuided: false, problem: nothingPlayed(desk) });
      return;
    }
    const { first_beat_s } = schedule;
    const stand_in = this.byStandIn && strikes.notes !== undefined && strikes.notes.length > 0;
    void this.send({ ...desk.settings, ...strikes, stand_in, first_beat_s, client_key: newClientKey() });
  }

  /** A take by the microphone: its sound is kept on this device, sent, and listened to. */
  private async finishByEar(beatBy: BeatBy): Promise<void> {
    const { active: desk, schedule } = this;
    if (!desk || !schedule) return;
    this.ended_ms = performance.now();
    const { only } = soundingOf("recording", desk, beatBy);
    const at_ms = (at_s: number) => this.stampOf(at_s);
    const clicks = beatBy === "aloud" ? schedule.sounds.filter((one) => one.track === "click" && only?.(one)) : [];
    const sounded = { first_beat_ms: at_ms(schedule.first_beat_s), clicks_ms: clicks.map((one) => at_ms(one.at_s)) };
    const stopping = this.ear.stop(sounded);
    this.silence("sending");
    const recorded = await stopping.catch((problem: unknown) => this.fail(problem));
    if (recorded) await this.sendSound(recorded);
  }

  /** When, on the page's clock, an instant of the schedule sounded. */
  private stampOf(at_s: number): number {
    const now_ms = performance.now();
    return now_ms + (at_s - this.sound.at_s(now_ms)) * 1000;
  }

  private fail(problem: unknown): null {
    this.set({ problem, phase: "idle", hearing: null, rounds: 0, isGuided: false });
    return null;
  }

  private sendSound(recorded: Recorded): Promise<void> {
    return this.deliver({
      unsent: recorded,
      send: () => this.server.sendSound(recorded, (hearing) => this.set({ hearing })),
      forget: () => this.ear.forget(recorded),
    });
  }

  /** Sends what was made; what the server has, or refuses and would refuse again, is forgotten here, what it never got
   * is kept. Then what comes next. */
  private async deliver({ unsent, send, forget }: Delivery): Promise<void> {
    const desk = this.active;
    if (!desk) return;
    this.set({ phase: "sending", problem: null });
    const mine = this.turn;
    try {
      const take = await send();
      await forget();
      if (mine !== this.turn) return;
      const { next } = take;
      this.set({ take, next, unsent: null, hearing: null });
      if (take.state === "judged" && (this.state.isGuided || this.state.round < this.state.rounds))
        void this.goOn(desk, next);
      else {
        this.set({ phase: "idle", rounds: 0, isGuided: false });
        void this.say(desk, next?.clips.map((clip) => clip.file) ?? []);
      }
    } catch (problem) {
      const refused = problem instanceof ApiError && problem.status >= 400 && problem.status < 500;
      if (refused) await forget();
      this.set({ unsent: refused ? null : unsent });
      this.fail(problem);
    }
  }

  /** Throws away what was made last: a recording that was not sent, or the telling of a take that was removed. */
  throwAway(): void {
    const { unsent } = this.state;
    if (unsent && "shelved" in unsent) void this.ear.forget(unsent);
    else if (unsent) forgetPending(unsent.client_key);
    this.set({ unsent: null, problem: null, take: null, next: null });
  }

  /** The stand-in's messages at their times, through the keyboard's own way in. */
  private playStandIn(notes: readonly StandInNote[], schedule: Schedule): void {
    const first = schedule.first_beat_s - STAND_IN_LEAD_S;
    for (const { at_s, data } of messagesOf(notes)) {
      const stamp_ms = this.stampOf(first + at_s);
      const wait_ms = Math.max(0, stamp_ms - performance.now());
      this.standInTimers.push(setTimeout(() => this.standIn.send(data, stamp_ms), wait_ms));
    }
  }

  private finishListening(): void {
    const { active: desk, schedule } = this;
    const slips = this.played.slips_s((stamp_ms) => this.sound.at_s(stamp_ms));
    this.silence("idle");
    if (!desk || !schedule) return;
    this.set({ phase: "sending" });
    const { first_beat_s } = schedule;
    this.server.sendHeard(desk.pieceId, { ...desk.settings, slips, first_beat_s, client_key: newClientKey() }).then(
      (kept) => this.set({ phase: "idle", problem: null, heard: kept.slips.length }),
      (problem: unknown) => this.set({ phase: "idle", problem }),
    );
  }

  private send(take: TakeCreate): Promise<void> {
    if (this.active === null) return Promise.resolve();
    const { pieceId, student } = this.active;
    keepPending({ pieceId, take, student: student.name });
    return this.deliver({
      unsent: take,
      send: () => this.server.sendTake(pieceId, take),
      forget: () => forgetPending(take.client_key),
    });
  }
}

/** ``unsent``: what is kept for sending it again; ``forget``: it need not be kept any longer. */
type Delivery = {
  unsent: TakeCreate | Recorded;
  send: () => ReturnType<Server["sendTake"]>;
  forget: () => void | Promise<void>;
};

/** The name of the bar that an instant of the written score lies in. */
function barAt(desk: Desk | null, onset_quarters: number): string | null {
  const bar = desk?.bars.findLast((one) => one.start_quarters <= onset_quarters + 1e-6);
  return bar ? (bar.bar_in_line === 0 ? "pickup" : bar.number) : null;
}

/** What a play-along is asked for, but for cue words, which only have a level. */
const asked = ({ playing }: Desk): string => JSON.stringify({ ...playing, cues: null });

function nothingPlayed({ settings }: Desk): ApiError {
  const onKeys = settings.activity === "play";
  const what = onKeys ? "Nothing was played, so no take was made." : "Nothing was tapped, so no take was made.";
  const todo = onKeys
    ? "Choose the keyboard below, press one of its keys, and see whether it is heard."
    : "After the count-in, tap F with the left hand and J with the right.";
  return new ApiError(0, "no-taps", what, null, null, todo);
}
