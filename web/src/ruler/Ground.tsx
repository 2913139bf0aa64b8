/** What a row stands on: bars and passage, spans of each hand, ticks by weight, strokes where hands meet. */
import { memo } from "react";

import type { Ruler } from "../api/client";
import { type Row, holds, xOf } from "./geometry";
import { TOP, RIGHT_Y, BASE_Y, LEFT_Y, THICK, type Name } from "./layout";
import type { Passage } from "../lib/passage";
import { inPassage } from "./BarHeads";

export const Ground = memo(function Ground({
  row,
  passage,
  ruler,
  height,
}: {
  row: Row;
  passage: Passage | null;
  ruler: Ruler;
  height: number;
}) {
  return (
    <>
      {row.measures
        .filter((m) => inPassage(ruler, passage, m))
        .map((m) => (
          <rect
            key={m.start_quarters}
            x={xOf(row, m.start_quarters)}
            y={TOP - 4}
            width={m.length_quarters * row.scale}
            height={height - TOP}
            fill="var(--color-here)"
          />
        ))}
    </>
  );
});

export const Spans = memo(function Spans({
  row,
  ruler,
  hands,
}: {
  row: Row;
  ruler: Ruler;
  hands: "right" | "left" | "both";
}) {
  const gap = 3;
  return (
    <>
      {ruler.right
        .filter((s) => holds(row, s.onset_quarters))
        .map((s) => (
          <rect
            key={`r${s.onset_quarters}`}
            x={xOf(row, s.onset_quarters)}
            y={RIGHT_Y}
            width={Math.max(4, s.length_quarters * row.scale - gap)}
            height={THICK}
            rx={THICK / 2}
            fill="var(--color-righthand)"
            opacity={hands === "left" ? 0.25 : 1}
          />
        ))}
      {ruler.left
        .filter((s) => holds(row, s.onset_quarters))
        .map((s) => (
          <rect
            key={`l${s.onset_quarters}`}
            x={xOf(row, s.onset_quarters)}
            y={LEFT_Y}
            width={Math.max(4, s.length_quarters * row.scale - gap)}
            height={THICK}
            fill="var(--color-lefthand)"
            opacity={hands === "right" ? 0.25 : 1}
          />
        ))}
    </>
  );
});

export function Names({ row, names }: { row: Row; names: readonly Name[] }) {
  return (
    <g fontSize={12} fontWeight={700} fill="#fff">
      {names
        .filter((name) => holds(row, name.onset_quarters))
        .map((name) => (
          <g key={`${name.hand}${name.onset_quarters}`}>
            <text x={xOf(row, name.onset_quarters) + 5} y={(name.hand === "right" ? RIGHT_Y : LEFT_Y) + 11.5}>
              {name.text}
            </text>
            {name.tied_at === undefined ? null : (
              <path
                d={tieOf(xOf(row, name.tied_at), name.hand)}
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

/** Tick lengths by depth: the bar longest, each weaker level shorter. */
const TICK_PX = [20, 15, 11, 7, 4];

export const Ticks = memo(function Ticks({ row }: { row: Row }) {
  return (
    <g stroke="var(--color-ink)">
      <path d={`M${xOf(row, row.start)} ${BASE_Y}H${xOf(row, row.end)}`} strokeWidth={1.5} />
      {row.measures.map((measure) => (
        <g key={measure.start_quarters}>
          <path
            d={`M${xOf(row, measure.start_quarters)} ${TOP - 2}V${LEFT_Y + THICK + 6}`}
            strokeWidth={1.25}
            opacity={0.55}
          />
          {measure.ticks.map((tick) => {
            const x = xOf(row, measure.start_quarters + tick.offset_quarters);
            const length = TICK_PX[Math.min(tick.depth, TICK_PX.length - 1)];
            return (
              <path
                key={tick.offset_quarters}
                d={`M${x} ${BASE_Y}v-${length}`}
                strokeWidth={tick.depth < 3 ? 1.5 : 1}
              />
            );
          })}
        </g>
      ))}
      <path d={`M${xOf(row, row.end)} ${TOP - 2}V${LEFT_Y + THICK + 6}`} strokeWidth={1.25} opacity={0.55} />
    </g>
  );
});

export const Joins = memo(function Joins({ row, ruler }: { row: Row; ruler: Ruler }) {
  return (
    <g stroke="var(--color-ink)" strokeWidth={2.25}>
      {ruler.together
        .filter((onset) => holds(row, onset))
        .map((onset) => (
          <path
            key={onset}
            d={`M${xOf(row, onset)} ${RIGHT_Y - 3}V${BASE_Y + 8}M${xOf(row, onset)} ${LEFT_Y - 6}v${THICK + 9}`}
          />
        ))}
    </g>
  );
});

/** A tie into the bar: a small arc before the name. */
function tieOf(x: number, hand: string): string {
  const isRight = hand === "right";
  return `M${x - 12} ${isRight ? RIGHT_Y - 1 : LEFT_Y + THICK + 1}q12 ${isRight ? -9 : 9} 24 0`;
}
