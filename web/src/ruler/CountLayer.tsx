/** The counts of a row, and a strip over each bar by which one of them is chosen. */
import { memo } from "react";

import type { Count, Counts } from "../api/client";
import { INDENT, type Row, holds, shownWord, typeAt, weightOf, xOf } from "./geometry";
import { type Heights, TOUCH_PX } from "./layout";
import { wordWidth } from "./letters";

type StripProps = {
  row: Row;
  counts: Counts;
  at: Heights;
  chosen: number | null;
  onCount: (count: Count) => void;
};

/** One control a bar, as high as a finger: a press chooses the count next to it, the arrows go on from there. */
export function CountStrips({ row, counts, at, chosen, onCount }: StripProps) {
  return (
    <>
      {row.bars.map(({ measure, x, width }) => {
        const end = measure.start_quarters + measure.length_quarters;
        const own = counts.counts.filter(
          (c) => c.onset_quarters >= measure.start_quarters - 1e-9 && c.onset_quarters < end - 1e-9,
        );
        const [first] = own;
        if (!first) return null;
        const here = own.findIndex((c) => c.onset_quarters === chosen);
        const nearest = (offset_px: number) =>
          own.findLast((c) => xOf(row, c.onset_quarters) - x <= Math.max(0, offset_px)) ?? first;
        const said = own.map((c) => (c.kind === "strike" ? c.say : `${c.say} ${c.kind}`)).join(", ");
        return (
          <button
            key={measure.start_quarters}
            type="button"
            aria-label={`Change a count of ${measure.bar_in_line === 0 ? "the pickup" : `bar ${measure.number}`}: ${said}`}
            aria-pressed={here >= 0}
            className="absolute z-10 cursor-pointer rounded-sm hover:bg-ink/5"
            style={{
              left: x,
              width: Math.max(width - 2, 24),
              top: at.count - at.type * 0.35 - TOUCH_PX / 2,
              height: TOUCH_PX,
            }}
            onClick={(event) =>
              onCount(
                event.detail
                  ? nearest(event.clientX - event.currentTarget.getBoundingClientRect().left)
                  : (own[Math.max(0, here)] ?? first),
              )
            }
            onKeyDown={(event) => {
              const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
              const next = own[here + by];
              if (!by || here < 0 || !next) return;
              event.preventDefault();
              event.stopPropagation();
              onCount(next);
            }}
          />
        );
      })}
    </>
  );
}

/** Strike bold; hold in brackets; rest under a bar of silence; a diamond marks a number that is said but
 * not played, because a syncopation lies across it; a dot stands for a word for which there was no room. */
export const CountWords = memo(function CountWords({
  row,
  counts,
  at,
  chosen,
}: {
  row: Row;
  counts: Counts;
  at: Heights;
  chosen: number | null;
}) {
  const silent = new Set(counts.syncopations.filter((s) => s.taught).map((s) => s.silent_quarters));
  return (
    <g>
      {counts.counts.map((count) => {
        if (!holds(row, count.onset_quarters)) return null;
        const { size, isLeftOut } = typeAt(row, count.onset_quarters);
        const x = xOf(row, count.onset_quarters) + INDENT * size;
        if (isLeftOut)
          return <circle key={count.onset_quarters} cx={x} cy={at.count - size * 0.3} r={1.6} className="fill-quiet" />;
        return (
          <CountWord
            key={count.onset_quarters}
            count={count}
            x={x}
            y={at.count}
            size={size}
            isChosen={count.onset_quarters === chosen}
            anyway={count.kind !== "strike" && silent.has(count.onset_quarters)}
          />
        );
      })}
    </g>
  );
});

type WordProps = { count: Count; x: number; y: number; size: number; isChosen: boolean; anyway: boolean };

function CountWord({ count, x, y, size, isChosen, anyway }: WordProps) {
  const said = shownWord(count);
  // A silence in which nothing is said keeps its sign.
  const width = said ? wordWidth(said, weightOf(count)) * size : size * 0.55;
  const isStrike = count.kind === "strike";
  const [top, height] = [y - size * 0.95, size * 1.3];
  return (
    <g>
      {count.is_changed ? (
        <rect x={x - 3} y={top} width={width + 6} height={height} rx={2} className="fill-warn/15" />
      ) : null}
      {isChosen ? (
        <rect
          x={x - 4}
          y={top - 1}
          width={width + 8}
          height={height + 2}
          rx={2}
          fill="none"
          className="stroke-ink"
          strokeWidth={2}
        />
      ) : null}
      <text
        x={x}
        y={y}
        fontSize={size}
        fontWeight={isStrike ? 750 : 400}
        className={isStrike ? "fill-ink" : "fill-quiet"}
      >
        {said}
      </text>
      {count.kind === "rest" ? (
        <path d={`M${x} ${y - size * 0.86}h${width}`} className="stroke-quiet" strokeWidth={2} />
      ) : null}
      {anyway ? (
        <path d={`M${x + width / 2} ${y - size * 1.3}l4 4-4 4-4-4z`} className="fill-card stroke-ink" strokeWidth={1.5}>
          <title>said anyway: nothing is played here</title>
        </path>
      ) : null}
    </g>
  );
}
