/** What is chosen for a piece's play-along, kept on this device; and the request that it makes. */
import * as z from "zod/mini";

import type { Schemas } from "../api/client";
import { keep, readParts } from "../lib/stored";
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
  ["0/1", "never"],
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

const shares = z.number().check(z.minimum(0), z.maximum(1));
const values = <T extends string>(table: readonly (readonly [T, string])[]) => z.enum(table.map(([key]) => key));
const everyChannel = <T>(schema: z.ZodMiniType<T>) =>
  z.object({ count: schema, click: schema, backing: schema, right: schema, left: schema, cue: schema });

const SCHEMAS = {
  mode: values(MODES),
  rounds: z.int().check(z.minimum(1), z.maximum(OVER_AND_OVER)),
  between: values(BETWEENS),
  gapBeats: z.int().check(z.minimum(0), z.maximum(64)),
  quietBars: z.int().check(z.minimum(0), z.maximum(16)),
  quietOf: z.int().check(z.minimum(1), z.maximum(16)),
  groove: z.string().check(z.maxLength(30)),
  knocks: z.boolean(),
  echoBy: values(ECHO_BYS),
  echoIn: values(ECHO_INS),
  slowBpm: z.nullable(z.number().check(z.minimum(20), z.maximum(400))),
  mix: z.object({
    volume: shares,
    levels: everyChannel(shares),
    muted: everyChannel(z.boolean()),
    said: z.object({ strike: z.boolean(), hold: z.boolean(), rest: z.boolean() }),
  }),
};

export function readChoice(pieceId: number, usual: Record<Schemas["Track"], number>): PlayChoice {
  return readParts<PlayChoice>(KEY(pieceId), SCHEMAS, {
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
    mix: startMix(usual),
  });
}

export function keepChoice(pieceId: number, choice: PlayChoice): void {
  keep(KEY(pieceId), choice); // remembering is a comfort; without it the choice still holds for this visit
}

export type PlayQuery = ReturnType<typeof queryOf>;

/** What is played: how fast, with which hands, which bars or spot of them, counted how densely. */
export type PlayedOf = Required<Pick<Schemas["TakeCreate"], "bpm" | "hands">> & {
  measures: string | null;
  within?: string | null;
  density?: Schemas["Density"] | null;
};

/** What is asked of the server; ``measures`` names a passage, null the whole piece. */
export function queryOf(choice: PlayChoice, { bpm, hands, measures, within, density }: PlayedOf) {
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
    ...(within ? { within } : {}),
    ...(density ? { density } : {}),
  };
}
