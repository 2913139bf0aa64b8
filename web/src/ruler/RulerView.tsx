/**
 * The beat ruler: time from left to right, tick lengths by metrical weight, the right hand above with
 * round ends, the left below with square ones, counts on it, strokes where hands meet. The same ruler
 * shows a take: each played strike is a pin on its written place, leaning left when early, right when late.
 */
import { type Ref, useImperativeHandle, useLayoutEffect, useMemo, useRef, useState } from "react";

import type { Count, Counts, Ruler } from "../api/client";
import { BarHeads } from "./BarHeads";
import { CountButtons, CountWords } from "./CountLayer";
import { Ground, Joins, Names, Spans, Ticks } from "./Ground";
import { Marks, Pins } from "./TakeLayer";
import { type Row, holds, layRows, smallestGap, xOf } from "./geometry";
import { TOP, LEFT_Y, THICK, type Pin, type Mark, type Name, type RulerHandle } from "./layout";

type Props = {
  ruler: Ruler;
  counts: Counts | undefined;
  hands: "right" | "left" | "both";
  pins?: Pin[];
  pinLimit_ms?: number;
  marks?: Mark[];
  /** Names written into the spans. */
  names?: readonly Name[];
  passage?: { from: number; to: number } | null;
  onBar?: (index: number, extend: boolean) => void;
  /** Counts can be chosen, to be said otherwise. */
  onCount?: (count: Count) => void;
  chosenCount?: number | null;
  handle?: Ref<RulerHandle>;
};

// What does not change with the counts is drawn once (memo): a choice redraws words and buttons only.

export function RulerView({
  ruler,
  counts,
  hands,
  pins,
  pinLimit_ms = 60,
  marks = [],
  names = [],
  passage,
  onBar,
  onCount,
  chosenCount = null,
  handle,
}: Props) {
  const box = useRef<HTMLDivElement>(null);
  const cursors = useRef<(SVGGElement | null)[]>([]);
  const [width, setWidth] = useState(760);

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    setWidth(element.clientWidth);
    return () => observer.disconnect();
  }, []);

  const gap = useMemo(() => smallestGap((counts?.counts ?? []).map((c) => c.onset_quarters)), [counts]);
  const rows = useMemo(() => layRows(ruler.measures, width, gap), [ruler, width, gap]);

  useImperativeHandle(
    handle,
    () => ({
      moveCursor(onset) {
        rows.forEach((row, index) => {
          const group = cursors.current[index];
          if (!group) return;
          const here = onset !== null && holds(row, onset);
          group.setAttribute("visibility", here ? "visible" : "hidden");
          if (here) {
            group.setAttribute("transform", `translate(${xOf(row, onset)} 0)`);
            const svg = group.ownerSVGElement;
            const edge = svg?.getBoundingClientRect();
            // What is fixed over the page's foot hides a row too.
            const cover = document.querySelector("[data-covers]")?.getBoundingClientRect();
            const floor = cover && cover.left < 40 ? cover.top : window.innerHeight;
            if (svg && edge && (edge.bottom > floor || edge.top < 0))
              svg.scrollIntoView({ block: cover ? "start" : "center" });
          }
        });
      },
      showBar(start_quarters) {
        box.current?.querySelector(`[data-bar="${start_quarters}"]`)?.scrollIntoView({ block: "center" });
      },
    }),
    [rows],
  );

  const isTake = pins !== undefined;
  const height = LEFT_Y + (isTake ? 44 : THICK + 14);
  return (
    <div ref={box} className="w-full">
      {rows.map((row, index) => (
        <div key={row.start} className="relative mb-3 [content-visibility:auto]" style={{ height }}>
          {onCount && counts ? <CountButtons row={row} counts={counts} chosen={chosenCount} onCount={onCount} /> : null}
          <BarHeads row={row} ruler={ruler} passage={passage ?? null} onBar={onBar} />
          <svg
            width={width}
            height={height}
            role="img"
            aria-label={rowLabel(row, counts)}
            className="block scroll-mt-8"
          >
            <Ground row={row} passage={passage ?? null} ruler={ruler} height={height} />
            {isTake ? null : <Spans row={row} ruler={ruler} hands={hands} />}
            {names.length ? <Names row={row} names={names} /> : null}
            <Ticks row={row} />
            {hands === "both" && !isTake ? <Joins row={row} ruler={ruler} /> : null}
            {isTake ? <Pins row={row} pins={pins} limit_ms={pinLimit_ms} /> : null}
            {counts ? <CountWords row={row} counts={counts} /> : null}
            <Marks row={row} marks={marks} />
            <g
              ref={(element) => {
                cursors.current[index] = element;
              }}
              visibility="hidden"
            >
              <path d={`M0 ${TOP - 2}V${LEFT_Y + THICK + 6}`} stroke="var(--color-ink)" strokeWidth={2.5} />
              <path d={`M-6 ${TOP - 8}h12l-6 8z`} fill="var(--color-ink)" />
            </g>
          </svg>
        </div>
      ))}
    </div>
  );
}

function rowLabel(row: Row, counts: Counts | undefined): string {
  const first = row.measures[0]?.number;
  const last = row.measures.at(-1)?.number;
  const said = (counts?.counts ?? [])
    .filter((c) => holds(row, c.onset_quarters))
    .map((c) => (c.kind === "strike" ? c.say : `${c.say} (${c.kind})`));
  return `Bars ${first} to ${last}. ${said.length ? `Count: ${said.join(", ")}.` : ""}`;
}
