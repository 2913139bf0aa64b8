/** What is chosen on a piece's rungs: tempo, hands and the rest stay as they were left, on this device. */
import { useState } from "react";
import * as z from "zod/mini";

import type { HandChoice, Piece, Schemas } from "../api/client";
import { trade } from "../api/trade";
import { keep, readParts } from "../lib/stored";
import { type PlayChoice, keepChoice, readChoice } from "./choice";
import type { Plan } from "./state";

/**
 * ``isRound``: one or two bars go four times round as one take; ``standIn``: how the student plays the stand-in
 * keyboard; as the piece is judged, cleanly, if left out.
 */
export type CardChoice = {
  hand: HandChoice;
  bpm: number;
  rounds: number;
  /** The same where it is practised freely. */
  freeRounds: number;
  clickThrough: boolean;
  isRound: boolean;
  /** What comes of a round is said aloud. */
  isSpoken: boolean;
  standIn?: Plan;
};

const oneOf = (table: () => readonly { key: string }[]) =>
  z.string().check(z.refine((given) => table().some(({ key }) => key === given)));

const SCHEMAS = {
  hand: z.enum(["right", "left", "both"]),
  bpm: z.number().check(z.minimum(20), z.maximum(400)),
  rounds: z.int().check(z.minimum(1), z.maximum(10)),
  freeRounds: z.int().check(z.minimum(1), z.maximum(10)),
  clickThrough: z.boolean(),
  isRound: z.boolean(),
  isSpoken: z.boolean(),
  standIn: z.optional(
    z.object({
      skill: oneOf(() => trade().levels),
      faults: z.array(z.object({ kind: z.string(), amount: z.number(), measure: z.nullish(z.string()) })),
    }),
  ),
} as { [K in keyof CardChoice]: z.ZodMiniType<CardChoice[K]> } & { standIn: z.ZodMiniType<Plan | undefined> };

export function useCardChoice(piece: Piece) {
  const key = `laptick.choice.${piece.id}`;
  const [choice, set] = useState(() =>
    readParts<CardChoice>(key, SCHEMAS, {
      bpm: piece.start_bpm,
      hand: "both",
      rounds: 4,
      freeRounds: 1,
      clickThrough: true,
      isRound: true,
      isSpoken: true,
    }),
  );
  return [choice, changeOf(set, (next) => keep(key, next))] as const;
}

export function usePlayChoice(pieceId: number, usual: Schemas["PlayOptions"]["levels"]) {
  const [choice, set] = useState<PlayChoice>(() => readChoice(pieceId, usual as Record<Schemas["Track"], number>));
  return [choice, changeOf(set, (next) => keepChoice(pieceId, next))] as const;
}

/** Changes a part, and keeps the whole. */
function changeOf<T>(set: (change: (old: T) => T) => void, keepIt: (next: T) => void) {
  return (part: Partial<T>) =>
    set((old) => {
      const next = { ...old, ...part };
      keepIt(next);
      return next;
    });
}
