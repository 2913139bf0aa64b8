/** What a session is at, what a screen arranges for it, and when it is over. No time passes here and nothing sounds. */
import type { NextStep, Schedule, Schemas, Take, TakeCreate } from "../api/client";
import type { Exactness } from "../sound/exactness";
import type { Mix } from "../sound/mix";
import type { Sounding } from "../sound/player";
import type { BeatBy } from "../sound/microphone";
import type { PlayQuery } from "./choice";
import type { Recorded } from "./ear";
import type { HearingStage } from "./server";

export type Phase = "idle" | "playing" | "recording" | "listening" | "sending" | "between";

/** What runs: the play-along, a take, or the teacher's listening. */
export type Mode = "playing" | "recording" | "listening";

export type TakeSettings = Omit<
  TakeCreate,
  "taps" | "notes" | "pedal" | "stand_in" | "first_beat_s" | "client_key" | "measures" | "times_round" | "hands"
> & { measures: string | null; times_round: number; hands: Schemas["TakeShort"]["hands"] };

/** What comes after a step: the desk of the next one, null where it ends, and what is said besides. */
export type Onward = { desk: Desk | null; say: readonly string[] };

/** How the simulated student plays. */
export type Plan = { faults: Schemas["FaultCreate"][]; skill: Schemas["Level"] };

/** What lies ready for the next start, as a screen arranges it: plain data. */
export type Desk = {
  pieceId: number;
  title: string;
  /** Whose work it is. */
  student: { id: number; name: string };
  /** Where each bar begins, in the order of the written score. */
  bars: readonly { start_quarters: number; number: string; bar_in_line: number }[];
  /** What is worked on: a rung, or what is done freely, and where. It tells a choice from a change of view. */
  work: string;
  settings: TakeSettings;
  mix: Mix;
  /** Claps are asked for among the keys. */
  hasClaps: boolean;
  /** What is heard of the beat after the count-in, while a take is recorded. */
  beat: Schemas["Beat"];
  /** What playing along is asked for. */
  playing: PlayQuery;
  /** On the ladder it is played along, whatever was chosen under Play: no echo, no first hearing. */
  plainly: boolean;
  /** How the stand-in keyboard is to play, if it is the one that is chosen. */
  standIn: Partial<Plan> | null;
  /** The rung it is for, if it is for one. */
  rung: string | null;
  /** What comes of a take is said aloud. */
  isSpoken: boolean;
  /** What is likely to be said: fetched while it is played, so that it is there at once. */
  likely: readonly string[];
  /** In a session: what is said before it, and whether it is only played along with, then done. */
  intro: readonly string[];
  isHeardOnly: boolean;
  /** What comes after it: of a take, or (null) of what was only heard. */
  onward: (next: NextStep | null) => Promise<Onward>;
};

export type Stretch = Schedule["stretches"][number];

export type State = {
  phase: Phase;
  /** The last count-in word heard, while counting in. */
  saying: string | null;
  /** The count heard now, while playing along. */
  counting: string | null;
  /** The bar that is played now. */
  bar: string | null;
  /** Whose turn it is, while playing along; and which stretch of the schedule. */
  role: Stretch["role"] | null;
  stretch: number;
  stretches: number;
  /** What is not as chosen, and why. */
  remarks: readonly string[];
  /** The piece that is playing, or was last. */
  playing: { pieceId: number; title: string; student: number } | null;
  exactness: Exactness | null;
  taps: number;
  round: number;
  rounds: number;
  problem: unknown;
  unsent: TakeCreate | Recorded | null;
  /** Where a recording is on its way: how much of it was sent, or that it is listened to. */
  hearing: HearingStage | null;
  /** The microphone listens to the take. */
  isByEar: boolean;
  take: Take | null;
  /** What the take leads to at its rung. */
  next: NextStep | null;
  /** The rung that is practised now, and whether the session goes from rung to rung by itself. */
  rung: string | null;
  isGuided: boolean;
  /** How many slips the listening that was just kept has; null once it was told. */
  heard: number | null;
};

/** What changes with every word, tap and turn; only small parts of a screen look at it. */
export const FLEETING = ["saying", "counting", "bar", "role", "stretch", "exactness", "taps"] as const;
export type Fleeting = Pick<State, (typeof FLEETING)[number]>;
export type Standing = Omit<State, keyof Fleeting>;

export const REST: State = {
  counting: null,
  bar: null,
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
  hearing: null,
  isByEar: false,
  take: null,
  next: null,
  rung: null,
  isGuided: false,
  heard: null,
};

/** A slip at the very end is still to be marked. */
const LISTEN_ON_S = 3;
/** After this much more than the usual silence without a single tap, nobody is there. */
const NOBODY_S = 4;
/** Who comes in early does so by less than this. */
const EARLY_S = 0.3;

/** What a piece's screen shows of it: nothing while another piece plays or was played. */
export function stateFor(state: State, pieceId: number): State {
  return state.playing === null || state.playing.pieceId === pieceId ? state : REST;
}

/** After the last strike that was asked for a take waits so long for another one. */
const LAST_STRIKE_S = 0.4;
/** It is over no sooner than so long before the last strike is due: who began again has struck more by then. */
const BEFORE_DUE_S = 0.5;
/** Who plays slower than the click has longer gaps than written, by so much at most. */
const SLOWER = 1.7;
/** Who has struck less than this share of what is asked for has stopped, and may go on. */
const NEARLY_ALL = 0.8;

/** What was struck so far: how often, the last one when and on which key. */
export type Struck = {
  count: number;
  last_s: number | undefined;
  last_pitch: number | null;
  byKeys: boolean;
  /** Heard by the microphone: not all of them, and some that are none, so that their count tells nothing. */
  byEar?: boolean;
};

/**
 * Play-along ends with the passage, and listening soon after it. A take ends as soon as the last strike that is asked
 * for is in, or when its time is past, hardly one is wanting and nothing more comes; else with the silence after its
 * last strike, as one that a microphone listens to always does.
 */
export function isOver(mode: Mode, schedule: Schedule, now_s: number, struck: Struck): boolean {
  if (mode === "playing") return now_s > schedule.end_s + 0.3;
  if (mode === "listening") return now_s > schedule.end_s + LISTEN_ON_S;
  if (now_s <= schedule.first_beat_s) return false;
  const { last_s } = struck;
  // What a microphone hears of a count-in, or of its own beginning, is nobody's first strike.
  const hasBegun = last_s !== undefined && last_s > schedule.first_beat_s - EARLY_S;
  if (!hasBegun) return now_s - schedule.first_beat_s > schedule.silence_s + NOBODY_S;
  const silence_s = now_s - Math.max(last_s, schedule.first_beat_s);
  return silence_s > schedule.silence_s || isAllIn(schedule, struck, now_s, silence_s);
}

function isAllIn({ ending }: Schedule, struck: Struck, now_s: number, silence_s: number): boolean {
  if (!ending || struck.byEar) return false;
  const asked = struck.byKeys ? ending.keys : ending.taps;
  const isLastKey = !struck.byKeys || ending.last_pitches.includes(struck.last_pitch ?? -1);
  const isDue = now_s > ending.last_s - BEFORE_DUE_S;
  if (struck.count >= asked && isLastKey && isDue && silence_s > LAST_STRIKE_S) return true;
  const isPast = now_s > ending.last_s + ending.gap_s;
  return isPast && struck.count >= NEARLY_ALL * asked && silence_s > SLOWER * ending.gap_s + LAST_STRIKE_S;
}

/**
 * How a mode sounds. While a take is recorded only the count-in is said, and the click goes on if it is wanted; a
 * microphone that hears it too hears nothing but clicks, and with knocks and claps not even those. ``beatBy``: how the
 * beat is given where a microphone listens.
 */
export function soundingOf(mode: Mode, desk: Desk, beatBy: BeatBy | null = null): Sounding {
  if (mode === "playing") return { mix: desk.mix };
  if (beatBy === "eye") return { mix: { ...desk.mix, volume: 0 }, only: () => false };
  const muted = { ...desk.mix.muted, count: false, click: false, backing: false };
  const mix: Mix = { ...desk.mix, muted, said: { strike: true, hold: true, rest: true } };
  const isHeardToo = beatBy === "aloud";
  const isToldApart = desk.settings.activity === "play" && !desk.hasClaps;
  const goesOn = !isHeardToo || (desk.beat === "click" && isToldApart);
  return { mix, only: (sound) => sound.is_count_in || (goesOn && sound.track === desk.beat) };
}
