/**
 * Where it is now: one upright line that goes from row to row. It is moved by a transform and nothing of the page is
 * read for it; the page is looked at only when another row begins. Taps light up on the hand's side.
 */
import { type Ref, useImperativeHandle, useLayoutEffect, useRef, useState } from "react";

import type { Counts } from "../api/client";
import { type Row, holds, xOf } from "./geometry";
import { type Heights, ROW_GAP } from "./layout";

export type CursorHandle = { move: (onset_quarters: number | null) => void; light: (hand: "right" | "left") => void };

type Props = {
  rows: readonly Row[];
  at: Heights;
  counts: Counts | undefined;
  handle: Ref<CursorHandle>;
  /** Another row begins. */
  onRow: (index: number) => void;
};

const wantsStill = () => window.matchMedia?.("(prefers-reduced-motion: reduce)").matches ?? false;
const LIGHT_MS = 220;

/** No row, and not hidden either. */
const UNKNOWN = -2;

export function Cursor({ rows, at, counts, handle, onRow }: Props) {
  const line = useRef<HTMLDivElement>(null);
  const lights = { right: useRef<HTMLDivElement>(null), left: useRef<HTMLDivElement>(null) };
  const known = useRef(UNKNOWN);
  const [isStill] = useState(wantsStill);

  // Laid anew (a tablet turned, another size): the row that is played lies elsewhere, though it is the same row.
  useLayoutEffect(() => {
    known.current = UNKNOWN;
  }, [rows, at]);

  useImperativeHandle(handle, () => ({
    move(onset) {
      const element = line.current;
      if (!element) return;
      let index = known.current;
      const here = rows[index];
      if (onset === null) index = -1;
      else if (!here || !holds(here, onset)) index = rows.findIndex((row) => holds(row, onset));
      const row = rows[index];
      if (index !== known.current) {
        known.current = index;
        element.style.visibility = row ? "visible" : "hidden";
        if (row) onRow(index);
      }
      if (!row || onset === null) return;
      // Where motion is unwelcome the line stands on the count and goes on at the next.
      const shown = isStill ? stepOf(row, onset, counts) : onset;
      element.style.transform = `translate3d(${xOf(row, shown)}px, ${index * (at.bottom + ROW_GAP)}px, 0)`;
    },
    light(hand) {
      const element = lights[hand].current;
      if (!element || isStill) return;
      element.animate?.([{ opacity: 1 }, { opacity: 0 }], { duration: LIGHT_MS, easing: "ease-out" });
    },
  }));

  const light = (hand: "right" | "left") => (
    <div
      ref={lights[hand]}
      className={`absolute -translate-x-1/2 opacity-0 ${hand === "right" ? "rounded-full bg-righthand" : "rounded-sm bg-lefthand"}`}
      style={{
        top: (hand === "right" ? at.right : at.left) - at.thick * 0.4,
        width: at.thick * 1.8,
        height: at.thick * 1.8,
      }}
    />
  );
  return (
    <div
      ref={line}
      data-cursor=""
      aria-hidden
      className="pointer-events-none invisible absolute top-0 left-0 z-20 will-change-transform"
    >
      <div
        className="absolute -left-[1.5px] w-[3px] bg-ink forced-colors:bg-[CanvasText]"
        style={{ top: at.head - 2, height: at.left + at.thick + 8 - at.head }}
      />
      <div
        className="absolute -left-[7px] border-x-7 border-t-8 border-x-transparent border-t-ink"
        style={{ top: at.head - 9 }}
      />
      {light("right")}
      {light("left")}
    </div>
  );
}

function stepOf(row: Row, onset: number, counts: Counts | undefined): number {
  const before = counts?.counts.findLast((count) => count.onset_quarters <= onset + 1e-9)?.onset_quarters;
  return before !== undefined && holds(row, before) ? before : row.start;
}
