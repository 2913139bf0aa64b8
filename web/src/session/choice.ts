/** What is chosen for a piece's play-along, kept on this device; and the request that it makes. */
import type { Schemas } from "../api/client";
import { type Mix, startMix } from "../sound/mix";

export type PlayMode = "play" | "echo" | "hear";
export type Between = Schemas["Between"];
export type EchoBy = Schemas["EchoBy"];
export type EchoIn = Schemas["EchoIn"];

export type PlayChoice = {
  mode: PlayMode;
  rounds: number;
  between: Between;
  gapBeats: number;
  quietBars: number;
  quietOf: number;
  groove: string;
  knocks: boolean;
  echoBy: EchoBy;
  echoIn: EchoIn;
  slowBpm: number | null;
  mix: Mix;
};

export const MODES = [
  ["play", "Play along"],
  ["echo", "Echo"],
  ["hear", "Hear it"],
] as const;

/** As many rounds as fit into the server's limit of fifteen minutes. */
export const OVER_AND_OVER = 100;

export const ROUNDS = [
  ["1", "once"],
  ["2", "twice"],
  ["4", "4 times"],
  ["8", "8 times"],
  [String(OVER_AND_OVER), "over and over"],
] as const;

export const BETWEENS = [
  ["count-in", "counted in anew"],
  ["gap", "after a gap"],
  ["straight", "straight on"],
] as const;

/** Silent bars of a cycle: the beat is kept alone there. */
export const QUIETS = [
  ["0/1", "no bar"],
  ["1/2", "1 bar of 2: keep the beat"],
  ["1/4", "1 bar of 4: keep the beat"],
  ["2/4", "2 bars of 4: keep the beat"],
  ["3/4", "3 bars of 4: keep the beat"],
  ["4/8", "4 bars of 8: keep the beat"],
] as const;

export const ECHO_BYS = [
  ["growing", "one bar, two, the line"],
  ["bar", "one bar"],
  ["two", "two bars"],
  ["line", "the line"],
] as const;

export const ECHO_INS = [
  ["tones", "tones"],
  ["counts", "counts"],
  ["names", "note names"],
] as const;

const KEY = (pieceId: number) => `laptick.play.${pieceId}`;

export function readChoice(pieceId: number, usual: Schemas["PlayOptions"]["levels"]): PlayChoice {
  const start: PlayChoice = {
    mode: "play",
    rounds: 1,
    between: "count-in",
    gapBeats: 2,
    quietBars: 0,
    quietOf: 1,
    groove: "auto",
    knocks: false,
    echoBy: "growing",
    echoIn: "tones",
    slowBpm: null,
    mix: startMix(usual as Record<Schemas["Track"], number>),
  };
  try {
    const kept = JSON.parse(localStorage.getItem(KEY(pieceId)) ?? "{}") as Partial<PlayChoice>;
    return { ...start, ...kept, mix: { ...start.mix, ...kept.mix } };
  } catch {
    return start;
  }
}

export function keepChoice(pieceId: number, choice: PlayChoice): void {
  try {
    localStorage.setItem(KEY(pieceId), JSON.stringify(choice));
  } catch {
    // Remembering is a comfort; without it the choice still holds for this visit.
  }
}

/** What is asked of the server; ``measures`` names a passage, null the whole piece. */
export function queryOf(choice: PlayChoice, bpm: number, hands: "right" | "left" | "both", measures: string | null) {
  return {
    bpm,
    hands,
    mode: choice.mode,
    rounds: choice.rounds,
    between: choice.between,
    gap_beats: choice.gapBeats,
    quiet_bars: choice.quietBars,
    quiet_of: choice.quietOf,
    groove: choice.groove,
    knocks: choice.knocks,
    echo_by: choice.echoBy,
    echo_in: choice.echoIn,
    cues: !choice.mix.muted.cue,
    ...(choice.slowBpm ? { slow_bpm: choice.slowBpm } : {}),
    ...(measures ? { measures } : {}),
  };
}

/** Taps further apart than this begin anew. */
const TAP_GAP_MS = 2500;
const TAPS_KEPT = 6;

/** Tap-tempo: the tempo of the last taps, by the median of their gaps; null until there are three of them. */
export class TapTempo {
  private stamps_ms: number[] = [];

  tap(stamp_ms: number): number | null {
    if (stamp_ms - (this.stamps_ms.at(-1) ?? -Infinity) > TAP_GAP_MS) this.stamps_ms = [];
    this.stamps_ms = [...this.stamps_ms, stamp_ms].slice(-TAPS_KEPT);
    if (this.stamps_ms.length < 3) return null;
    const gaps = this.stamps_ms
      .slice(1)
      .map((at, i) => at - (this.stamps_ms[i] as number))
      .sort((a, b) => a - b);
    const middle =
      gaps.length % 2
        ? (gaps[(gaps.length - 1) / 2] as number)
        : ((gaps[gaps.length / 2 - 1] as number) + (gaps[gaps.length / 2] as number)) / 2;
    return 60_000 / middle;
  }
}
