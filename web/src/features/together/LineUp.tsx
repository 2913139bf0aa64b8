/**
 * Lining up: out of time, one strike after another – what goes down and with which finger, what holds, what was let go.
 * On by key, by tapping with the hands, or at a keyboard when just the right keys are down.
 */
import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { MapKey, TogetherMap } from "../../api/client";
import { useKeys } from "../../ui/useKeys";
import { type Heard, type Step, heard, stepAt, stepsOf, tapped } from "../../lib/liningUp";
import { keyboards } from "../../session/current";
import { Button } from "../../ui/kit";

type Props = {
  map: TogetherMap;
  from_quarters: number;
  /** The strike that is looked at, for the ruler and the page. */
  onStep: (step: Step) => void;
  onClose: () => void;
  say: (word: string) => Promise<void>;
  /** Which MIDI keyboard is heard. */
  keyboard: ReactNode;
};

const WORDS = { T: "together", R: "right", L: "left" } as const;

export function LineUp({ map, from_quarters, onStep, onClose, say, keyboard }: Props) {
  const steps = useMemo(() => stepsOf(map), [map]);
  const [index, setIndex] = useState(() => stepAt(steps, from_quarters));
  const [wrong, setWrong] = useState("");
  const [isSaid, setSaid] = useState(false);
  const step = steps[index];
  const go = useCallback(
    (by: number) => {
      setWrong("");
      setIndex((old) => Math.max(0, Math.min(steps.length - 1, old + by)));
    },
    [steps],
  );
  useEffect(() => {
    if (step) onStep(step);
  }, [step, onStep]);
  useEffect(() => {
    if (isSaid && step) void say(WORDS[step.letter]).catch(() => setSaid(false));
  }, [isSaid, step, say]);
  const tap = useTaps(step, go, setWrong);
  useKeysDown(step, go, setWrong);
  useKeys({
    enabled: true,
    onSpace: () => go(1),
    onRecord: () => undefined,
    onTap: tap,
    onArrow: go,
    onEscape: onClose,
    onTempo: () => undefined,
    onKey: () => false,
  });
  if (!step) return null;
  const isLast = index === steps.length - 1;
  return (
    <section data-over-ruler="" aria-label="Line it up" className="rounded-lg border border-ink bg-card p-4">
      <p className="flex items-baseline justify-between gap-3 text-sm text-quiet">
        <span>{step.place}</span>
        <span className="whitespace-nowrap">
          {index + 1} of {steps.length}
        </span>
      </p>
      <p role="status" className="mt-1 text-4xl font-bold first-letter:uppercase">
        {WORDS[step.letter]}
      </p>
      <dl className="mt-2 grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 gap-y-1 text-lg">
        <Hand step={step} hand="right" />
        <Hand step={step} hand="left" />
      </dl>
      <p role="status" className="mt-2 min-h-6 font-semibold text-warn">
        {wrong}
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <Button onClick={() => go(-1)} disabled={index === 0}>
          Back
        </Button>
        <Button look="strong" keys="Space" disabled={isLast} onClick={() => go(1)}>
          {isLast ? "That is the end" : "Next"}
        </Button>
        <Button look="quiet" onClick={onClose}>
          Close
        </Button>
      </div>
      <p className="mt-3 flex flex-wrap gap-x-5 text-sm">
        <Button look="quiet" aria-pressed={isSaid} onClick={() => setSaid(!isSaid)}>
          {isSaid ? "Do not say it" : "Say which hand"}
        </Button>
      </p>
      <details className="mt-1 text-sm max-md:hidden">
        <summary className="cursor-pointer py-1 font-semibold">With a MIDI keyboard</summary>
        {keyboard}
      </details>
      <p data-screen-only="" className="mt-2 text-sm text-quiet max-md:hidden">
        Out of time. On with Space or →, with F and J as the hands strike, or on a MIDI keyboard by the right keys
        alone.
      </p>
    </section>
  );
}

/** What one hand does at a strike: goes down, holds, lets go. */
function Hand({ step, hand }: { step: Step; hand: "right" | "left" }) {
  const own = (keys: readonly MapKey[]) => keys.filter((key) => key.hand === hand);
  const [struck, held, lifted] = [own(step.struck), own(step.held), own(step.lifted)];
  const shape = hand === "right" ? "rounded-full bg-righthand" : "bg-lefthand";
  return (
    <>
      <dt className="flex items-center gap-2 text-base text-quiet">
        <span aria-hidden className={`inline-block h-3 w-6 ${shape}`} />
        {hand}
      </dt>
      <dd>
        {struck.length ? <b>{struck.map(keyWords).join(" ")}</b> : null}
        {held.length ? (
          <span>
            {" "}
            {struck.length ? "· " : ""}hold {held.map(keyWords).join(" ")}
          </span>
        ) : null}
        {lifted.length ? (
          <span className="text-quiet"> · let go {lifted.map(({ name }) => name).join(" ")}</span>
        ) : null}
        {struck.length || held.length || lifted.length ? null : <span className="text-quiet">rests</span>}
      </dd>
    </>
  );
}

/** So long after the last key it is looked whether others were hit besides. */
const SETTLE_MS = 150;

const keyWords = (key: MapKey): string => (key.name || "a strike") + (key.finger ? ` (${key.finger})` : "");

/** The hands tap as they strike: both for together. */
function useTaps(step: Step | undefined, go: (by: number) => void, tell: (words: string) => void) {
  const taps = useRef(new Set<"right" | "left">());
  useEffect(() => taps.current.clear(), [step]);
  return (hand: "right" | "left") => {
    if (!step) return;
    taps.current.add(hand);
    const found = tapped(step, taps.current);
    if (found.on) go(1);
    else if (found.extra.length) {
      taps.current.clear();
      tell(`Not the ${hand} hand here.`);
    }
  };
}

/** A keyboard is heard while this is open: on when just the right keys are down. */
function useKeysDown(step: Step | undefined, go: (by: number) => void, tell: (words: string) => void): void {
  const keys = useRef({ down: new Set<number>(), fresh: new Set<number>() });
  const latest = useRef({ step, go, tell });
  useEffect(() => {
    latest.current = { step, go, tell };
  });
  useEffect(() => keys.current.fresh.clear(), [step]);
  useEffect(() => {
    let settled = 0;
    const look = (pressed: number) => {
      const now = latest.current;
      if (!now.step) return;
      const found: Heard = heard(now.step, keys.current);
      clearTimeout(settled);
      // Keys of one strike come one after another, and so do those that are hit besides.
      if (found.on)
        settled = window.setTimeout(() => {
          const later = latest.current;
          if (later.step && heard(later.step, keys.current).on) later.go(1);
        }, SETTLE_MS);
      else if (found.extra.includes(pressed)) now.tell("A key is down that is not in it: let go and try again.");
    };
    const giveBack = keyboards.lend({
      note: (pitch) => {
        keys.current.down.add(pitch);
        keys.current.fresh.add(pitch);
        look(pitch);
      },
      release: (pitch) => {
        keys.current.down.delete(pitch);
        keys.current.fresh.delete(pitch);
        look(-1);
      },
      pedal: () => undefined,
    });
    return () => {
      clearTimeout(settled);
      giveBack();
    };
  }, []);
}
