/**
 * Lining the hands up, out of time: one strike after another, and when what is down is just what it says. No rule of
 * music is decided here: what meets, holds and lifts comes from the map.
 */
import type { MapKey, TogetherMap } from "../api/client";

type Hand = "right" | "left";

/** A strike with what was let go since the one before, up to it. */
export type Step = {
  onset_quarters: number;
  place: string;
  letter: "T" | "R" | "L";
  struck: readonly MapKey[];
  held: readonly MapKey[];
  lifted: readonly MapKey[];
};

export function stepsOf(map: Pick<TogetherMap, "events" | "lifts">): Step[] {
  let index = 0;
  return map.events.map((event) => {
    const lifted: MapKey[] = [];
    for (
      let lift = map.lifts[index];
      lift && lift.onset_quarters <= event.onset_quarters + 1e-9;
      lift = map.lifts[++index]
    )
      lifted.push(...lift.keys);
    return { ...event, lifted };
  });
}

/** Where to begin for a place: the last strike that is not after it. */
export function stepAt(steps: readonly Step[], onset_quarters: number): number {
  return Math.max(
    0,
    steps.findLastIndex((step) => step.onset_quarters <= onset_quarters + 1e-9),
  );
}

export const handsOf = (step: Step): readonly Hand[] =>
  step.letter === "T" ? ["right", "left"] : step.letter === "R" ? ["right"] : ["left"];

const pitchesOf = (keys: readonly MapKey[]) => new Set(keys.flatMap(({ pitch }) => (pitch === null ? [] : [pitch])));

/** What a keyboard shows: keys that are down, and those of them that went down since the last step. */
export type Keys = { down: ReadonlySet<number>; fresh: ReadonlySet<number> };

/** ``on``: just the right keys are down; ``extra``: keys that are not in it; else it is waited for the rest. */
export type Heard = { on: boolean; extra: readonly number[] };

/** What is struck must be pressed anew; what is held may still be down; nothing else may. */
export function heard(step: Step, { down, fresh }: Keys): Heard {
  const struck = pitchesOf(step.struck);
  const held = pitchesOf(step.held);
  const extra = [...down].filter((pitch) => !struck.has(pitch) && !held.has(pitch));
  const on = struck.size > 0 && extra.length === 0 && [...struck].every((pitch) => down.has(pitch) && fresh.has(pitch));
  return { on, extra };
}

/** Taps with the hands: on when just those that strike have tapped. */
export function tapped(step: Step, taps: ReadonlySet<Hand>): Heard {
  const hands = handsOf(step);
  const wrong = [...taps].filter((hand) => !hands.includes(hand));
  return { on: wrong.length === 0 && hands.every((hand) => taps.has(hand)), extra: wrong.map(() => -1) };
}
