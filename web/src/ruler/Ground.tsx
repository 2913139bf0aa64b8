/** What a row stands on: bars and passage, spans of each hand, ticks by weight, strokes where hands meet. */
import { memo } from "react";

import type { Ruler } from "../api/client";
import type { Passage, Spot } from "../lib/passage";
import { inPassage } from "./BarHeads";
import { type Row, holds, xOf } from "./geometry";
import type { Heights, Name } from "./layout";

type Props = { row: Row; ruler: Ruler; at: Heights };

export const Ground = memo(function Ground({ row, passage, ruler, at }: Props & { passage: Passage | null }) {
  return (
    <>
      {row.bars
        .filter((bar) => inPassage(ruler, passage, bar.measure))
        .map((bar) => (
          <rect
            key={bar.measure.start_quarters}
            x={bar.x}
            y={at.head - 4}
            width={bar.width}
            height={at.bottom - at.head}
            fill="var(--color-here)"
          />
        ))}
    </>
  );
});

const SPAN_GAP = 3;

/** A clap is drawn in outline. */
const LOOKS = {
  right: { strike: "fill-righthand", clap: "fill-card stroke-righthand" },
  left: { strike: "fill-lefthand", clap: "fill-card stroke-lefthand" },
} as const;

/** Outside the spot that is asked for, and of the hand that rests. */
const FAINT = 0.25;

const isOutside = (spot: Spot | null, onset: number) =>
  spot !== null && (onset < spot.from_quarters - 1e-6 || onset > spot.to_quarters + 1e-6);

type Asked = { hands: "right" | "left" | "both"; spot: Spot | null };

export const Spans = memo(function Spans({ row, ruler, hands, spot, at }: Props & Asked) {
  const shapes = (hand: "right" | "left") =>
    ruler[hand]
      .filter((span) => holds(row, span.onset_quarters))
      .map((span) => {
        const x = xOf(row, span.onset_quarters);
        const end = xOf(row, Math.min(span.onset_quarters + span.length_quarters, row.end));
        return (
          <rect
            key={hand + String(span.onset_quarters)}
            x={x}
            y={hand === "right" ? at.right : at.left}
            width={Math.max(4, end - x - SPAN_GAP)}
            height={at.thick}
            rx={hand === "right" ? at.thick / 2 : 2}
            className={LOOKS[hand][span.is_clap ? "clap" : "strike"]}
            {...(span.is_clap ? { strokeWidth: 2.5, strokeDasharray: "5 3" } : null)}
            opacity={(hands === "both" || hands === hand) && !isOutside(spot, span.onset_quarters) ? 1 : FAINT}
          >
            {span.is_clap ? <title>a clap</title> : null}
          </rect>
        );
      });
  return (
    <>
      {shapes("right")}
      {shapes("left")}
    </>
  );
});

export function Names({ row, names, at }: { row: Row; names: readonly Name[]; at: Heights }) {
  const yOf = (hand: Name["hand"]) => (hand === "right" ? at.right : at.left);
  return (
    <g fontSize={14} fontWeight={600} fill="#fff">
      {names
        .filter((name) => holds(row, name.onset_quarters))
        .map((name) => (
          <g key={`${name.hand}${name.onset_quarters}`}>
            <text x={xOf(row, name.onset_quarters) + 5} y={yOf(name.hand) + at.thick / 2 + 5}>
              {name.text}
            </text>
            {name.tied_at === undefined ? null : (
              <path
                d={tieOf(xOf(row, name.tied_at), name.hand, at)}
                fill="none"
                stroke="var(--color-ink)"
                strokeWidth={2.25}
              />
            )}
          </g>
        ))}
    </g>
  );
}

/** Tick lengths by depth, in parts of the type: the bar longest, each weaker level shorter. */
const TICKS = [1, 0.75, 0.55, 0.35, 0.2];

export const Ticks = memo(function Ticks({ row, at }: { row: Row; at: Heights }) {
  const bottom = at.left + at.thick + 6;
  return (
    <g className="stroke-ink">
      <path d={`M${xOf(row, row.start)} ${at.base}H${xOf(row, row.end)}`} strokeWidth={1.5} />
      {row.measures.map((measure) => (
        <g key={measure.start_quarters}>
          <path d={`M${xOf(row, measure.start_quarters)} ${at.head - 2}V${bottom}`} strokeWidth={1.25} opacity={0.55} />
          {measure.ticks.map((tick) => {
            const x = xOf(row, measure.start_quarters + tick.offset_quarters);
            const length = (TICKS[Math.min(tick.depth, TICKS.length - 1)] ?? 0.2) * at.type;
            return (
              <path
                key={tick.offset_quarters}
                d={`M${x} ${at.base}v-${length}`}
                strokeWidth={tick.depth < 3 ? 1.5 : 1}
              />
            );
          })}
        </g>
      ))}
      <path d={`M${xOf(row, row.end)} ${at.head - 2}V${bottom}`} strokeWidth={1.25} opacity={0.55} />
    </g>
  );
});

export const Joins = memo(function Joins({ row, ruler, spot, at }: Props & { spot: Spot | null }) {
  return (
    <g className="stroke-ink" strokeWidth={2.25}>
      {ruler.together
        .filter((onset) => holds(row, onset) && !isOutside(spot, onset))
        .map((onset) => {
          const x = xOf(row, onset);
          return <path key={onset} d={`M${x} ${at.right - 3}V${at.base + 6}M${x} ${at.left - 5}v${at.thick + 8}`} />;
        })}
    </g>
  );
});

/** A tie into the bar: a small arc before the name. */
function tieOf(x: number, hand: string, at: Heights): string {
  const isRight = hand === "right";
  return `M${x - 12} ${isRight ? at.right - 1 : at.left + at.thick + 1}q12 ${isRight ? -9 : 9} 24 0`;
}
