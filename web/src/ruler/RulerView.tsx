/**
 * The beat ruler: time from left to right, tick lengths by metrical weight, the right hand above with
 * round ends, the left below with square ones, counts on it, strokes where hands meet. The same ruler
 * shows a take: each played strike is a pin on its written place, leaning left when early, right when late.
 */
import { type Ref, memo, useImperativeHandle, useLayoutEffect, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";

import type { Count, Counts, Ruler } from "../api/client";
import { isTouch } from "../lib/device";
import type { Passage, Spot } from "../lib/passage";
import { canTellSight, useInSight } from "../ui/long/useInSight";
import { count as counted } from "../lib/words";
import { BarHeads } from "./BarHeads";
import { CountStrips, CountWords } from "./CountLayer";
import { Cursor, type CursorHandle } from "./Cursor";
import { Ground, Joins, Names, Spans, Ticks } from "./Ground";
import { MapMarks, type MapOnRuler } from "./MapLayer";
import { Marks, Pins } from "./TakeLayer";
import { type Row, holds, layRows, thinnedBars } from "./geometry";
import { COUNT_TYPE, type Mark, type Name, type Pin, ROW_GAP, type RulerHandle, hasClaps, heightsOf } from "./layout";

type Props = {
  ruler: Ruler;
  counts: Counts | undefined;
  hands: "right" | "left" | "both";
  /** The type of the counts, in pixels. */
  type_px?: number;
  pins?: Pin[];
  pinLimit_ms?: number;
  marks?: Mark[];
  /** Names written into the spans. */
  names?: readonly Name[];
  passage?: Passage | null;
  /** Only these bars are drawn, as large as they can be. */
  only?: Passage | null;
  /** Only what is struck there is asked for: the rest is faint. */
  spot?: Spot | null;
  onBar?: (index: number, extend: boolean) => void;
  /** Counts can be chosen, to be said otherwise. */
  onCount?: (count: Count) => void;
  chosenCount?: number | null;
  /** What meets and where the hands stand, drawn over and under the rows. */
  map?: MapOnRuler;
  handle?: Ref<RulerHandle>;
};

/** What a page of paper holds between its margins. */
const PAPER_PX = 660;

/** A ruler of more rows is drawn where it is in sight only; before that is known, so many are. */
const MANY_ROWS = 30;
const FIRST_ROWS = 10;

const NO_COUNTS: readonly Count[] = [];
const NO_MARKS: Mark[] = [];
const NO_NAMES: readonly Name[] = [];

// What does not change with the counts is drawn once (memo): a choice redraws words and strips only, and what is said
// while it plays redraws nothing.

export const RulerView = memo(function RulerView({
  ruler,
  counts,
  hands,
  type_px = COUNT_TYPE,
  pins,
  pinLimit_ms = 60,
  marks = NO_MARKS,
  names = NO_NAMES,
  passage,
  only = null,
  spot = null,
  onBar,
  onCount,
  chosenCount = null,
  map,
  handle,
}: Props) {
  const box = useRef<HTMLDivElement>(null);
  const cursor = useRef<CursorHandle>(null);
  const [width, setWidth] = useState(760);
  const [isPrinted, setPrinted] = useState(false);

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => setWidth(element.clientWidth);
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    measure();
    // Paper is narrower than most screens: the rows are laid anew for it, and back.
    const toPaper = () =>
      flushSync(() => {
        setWidth(PAPER_PX);
        setPrinted(true);
      });
    const fromPaper = () => {
      setPrinted(false);
      measure();
    };
    window.addEventListener("beforeprint", toPaper);
    window.addEventListener("afterprint", fromPaper);
    return () => {
      observer.disconnect();
      window.removeEventListener("beforeprint", toPaper);
      window.removeEventListener("afterprint", fromPaper);
    };
  }, []);

  const units = useMemo(
    () => new Map((counts?.units ?? []).map((unit) => [unit.onset_quarters, unit.text] as const)),
    [counts],
  );
  const rows = useMemo(() => {
    const measures = only ? ruler.measures.slice(only.from, only.to + 1) : ruler.measures;
    const [first, last] = [measures[0]?.start_quarters ?? 0, measures.at(-1)];
    const end = last ? last.start_quarters + last.length_quarters : 0;
    const said = (counts?.counts ?? NO_COUNTS).filter((c) => c.onset_quarters >= first && c.onset_quarters < end);
    return layRows(measures, width, { counts: said, type_px, units });
  }, [ruler, only, width, counts, type_px, units]);
  const isTake = pins !== undefined;
  const isMap = map !== undefined;
  const isTouched = isTouch() && onBar !== undefined;
  const at = useMemo(
    () => heightsOf(type_px, { touch: isTouched, take: isTake, map: isMap }),
    [type_px, isTouched, isTake, isMap],
  );

  const near = useInSight(box, rows.length);
  const isDrawn = (index: number) =>
    rows.length <= MANY_ROWS || isPrinted || !canTellSight || (near.size ? near.has(index) : index < FIRST_ROWS);

  const rowAt = (index: number) => box.current?.querySelector(`[data-row="${index}"]`);
  useImperativeHandle(handle, () => ({
    moveCursor: (onset) => cursor.current?.move(onset),
    light: (hand) => cursor.current?.light(hand),
    showBar: (start) => {
      const bar =
        box.current?.querySelector(`[data-bar="${start}"]`) ?? rowAt(rows.findIndex((row) => holds(row, start)));
      bar?.scrollIntoView({ block: "center", behavior: "instant" });
    },
  }));
  const onRow = (index: number) => {
    const row = rowAt(index);
    const edge = row?.getBoundingClientRect();
    if (!row || !edge) return;
    const frame = row.closest("[data-stand]")?.getBoundingClientRect();
    const [top, bottom] = frame ? [frame.top, frame.bottom] : [underCard(), window.innerHeight];
    // On a stand the row that is played is at the top, so that the next ones can be seen coming.
    if (frame || edge.bottom > bottom || edge.top < top) row.scrollIntoView({ block: frame ? "start" : "center" });
  };

  const thinned = thinnedBars(rows);
  return (
    <div ref={box} className="relative w-full">
      {rows.map((row, index) => (
        <div
          key={row.start}
          data-row={index}
          className="relative scroll-mt-2 break-inside-avoid"
          style={{ height: at.bottom, marginBottom: ROW_GAP }}
        >
          {isDrawn(index) ? (
            <>
              {onCount && counts ? (
                <CountStrips row={row} counts={counts} at={at} chosen={chosenCount} onCount={onCount} />
              ) : null}
              <BarHeads
                row={row}
                ruler={ruler}
                passage={passage ?? null}
                at={at}
                units={units}
                onBar={onBar}
                notes={map?.notes}
              />
              <svg width={width} height={at.bottom} role="img" aria-label={rowLabel(row, counts)} className="block">
                <Ground row={row} passage={passage ?? null} ruler={ruler} at={at} />
                {isTake ? null : <Spans row={row} ruler={ruler} hands={hands} spot={spot} at={at} />}
                {names.length ? <Names row={row} names={names} at={at} /> : null}
                <Ticks row={row} at={at} />
                {hands === "both" && !isTake ? <Joins row={row} ruler={ruler} spot={spot} at={at} /> : null}
                {isTake ? <Pins row={row} pins={pins} limit_ms={pinLimit_ms} at={at} /> : null}
                {counts ? <CountWords row={row} counts={counts} at={at} chosen={chosenCount} /> : null}
                {map ? <MapMarks row={row} map={map} at={at} /> : null}
                <Marks row={row} marks={marks} at={at} />
              </svg>
            </>
          ) : null}
        </div>
      ))}
      <Cursor rows={rows} at={at} counts={counts} handle={cursor} onRow={onRow} />
      {hasClaps(ruler) ? <p className="mb-3 text-sm text-quiet">In dashes: a clap.</p> : null}
      {thinned.length ? (
        <p className="mb-3 text-sm text-quiet">
          In {counted(thinned.length, "bar")} ({thinned.join(", ")}) a dot stands for a word for which there is no room:
          say it too.
        </p>
      ) : null}
    </div>
  );
});

/** Where a card that lies over the whole width of the page ends, where there is one. */
function underCard(): number {
  const card = document.querySelector("[data-over-ruler]")?.getBoundingClientRect();
  return card && card.width > window.innerWidth * 0.7 ? card.bottom : 0;
}

function rowLabel(row: Row, counts: Counts | undefined): string {
  const name = (at: number) => {
    const measure = row.measures.at(at);
    return measure?.bar_in_line === 0 ? "pickup" : measure?.number;
  };
  const said = (counts?.counts ?? [])
    .filter((c) => holds(row, c.onset_quarters))
    .map((c) => (c.kind === "strike" ? c.say : `${c.say} (${c.kind})`));
  const bars = row.measures.length === 1 ? `Bar ${name(0)}.` : `Bars ${name(0)} to ${name(-1)}.`;
  return `${bars} ${said.length ? `Count: ${said.join(", ")}.` : ""}`;
}
