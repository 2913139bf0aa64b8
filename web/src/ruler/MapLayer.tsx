/**
 * The together map on a row: seams as notches over the bar lines, deeper where harder; where each hand stands as a named
 * bracket, the right hand's above, the left hand's below; footprints from where a hand can go to where it must be.
 */
import { memo } from "react";

import type { Schemas } from "../api/client";
import { type Row, holds, xOf } from "./geometry";
import { type Heights, MAP_PX } from "./layout";
import { wordWidth } from "./letters";

export type MapOnRuler = {
  seams: readonly Schemas["SeamPublic"][];
  positions: readonly Schemas["PositionPublic"][];
  shifts: readonly Schemas["ShiftPublic"][];
  /** What is said of each bar, by its first instant. */
  notes: ReadonlyMap<number, string>;
  /** The place that is looked at: where it leads to. */
  chosen_quarters: number | null;
};

type Props = { row: Row; map: MapOnRuler; at: Heights };

const FONT_PX = 14;
const GAP_PX = 4;
/** Seams easier than this are no places to stop at. */
const SHOWN_POINTS = 3;

export const MapMarks = memo(function MapMarks({ row, map, at }: Props) {
  return (
    <>
      <Brackets row={row} map={map} at={at} hand="right" />
      <Brackets row={row} map={map} at={at} hand="left" />
      <Steps row={row} map={map} at={at} />
      <Notches row={row} map={map} at={at} />
    </>
  );
});

/** Where the brackets of a hand are drawn. */
const lineOf = (hand: "right" | "left", at: Heights) => (hand === "right" ? at.top - 10 : at.bottom - MAP_PX + 4);

const inkOf = (hand: "right" | "left") => (hand === "right" ? "var(--color-righthand)" : "var(--color-lefthand)");

/** What of a place's name there is room for. */
export function fitted(name: string, moved: string | null | undefined, room_px: number): string {
  const short = name.replace(" position", "");
  const tried = [...(moved ? [`${name}, ${moved}`, `${short}, ${moved}`] : []), name, short];
  return tried.find((words) => wordWidth(words, "400") * FONT_PX <= room_px) ?? "";
}

function Brackets({ row, map, at, hand }: Props & { hand: "right" | "left" }) {
  const y = lineOf(hand, at);
  const foot = hand === "right" ? 8 : -8;
  return (
    <g stroke={inkOf(hand)} fill="none" strokeWidth={2}>
      {map.positions
        .filter((one) => one.hand === hand && one.from_quarters < row.end - 1e-9 && one.to_quarters > row.start + 1e-9)
        .map((one) => {
          const begins = one.from_quarters >= row.start - 1e-9;
          const ends = one.to_quarters <= row.end + 1e-9;
          const x = xOf(row, Math.max(one.from_quarters, row.start)) + (begins ? 1 : 0);
          const end = Math.max(x + 6, xOf(row, Math.min(one.to_quarters, row.end)) - GAP_PX);
          const words = fitted(one.name, begins ? one.moved : null, end - x - 4);
          return (
            <g key={one.from_quarters} data-position={one.name}>
              <path d={`M${x} ${begins ? y + foot : y}V${y}H${end}${ends ? `V${y + foot}` : ""}`} />
              {words ? (
                <text
                  x={(x + end) / 2}
                  y={hand === "right" ? y - 9 : y + FONT_PX + 3}
                  fontSize={FONT_PX}
                  textAnchor="middle"
                  fill={inkOf(hand)}
                  stroke="none"
                >
                  {words}
                </text>
              ) : null}
              <title>{`${hand} hand: ${one.name}${one.moved ? `, ${one.moved}` : ""}`}</title>
            </g>
          );
        })}
    </g>
  );
}

const STEP_PX = 9;

/** Footprints: as many as there is time for. */
function Steps({ row, map, at }: Props) {
  return (
    <g>
      {map.shifts
        .filter((shift) => holds(row, shift.to_quarters) || holds(row, shift.go_quarters))
        .map((shift) => {
          const end = xOf(row, Math.min(shift.to_quarters, row.end)) - 2;
          const from = xOf(row, Math.max(shift.go_quarters, row.start));
          const prints = Math.max(1, Math.min(8, Math.floor((end - from) / STEP_PX)));
          const y = lineOf(shift.hand, at);
          return (
            <g key={`${shift.hand}${shift.to_quarters}`} fill={inkOf(shift.hand)} data-shift={shift.hand}>
              {Array.from({ length: prints }, (_, index) => {
                const x = end - index * STEP_PX;
                const side = index % 2 ? -2.5 : 2.5;
                return shift.hand === "right" ? (
                  <ellipse key={index} cx={x} cy={y + side} rx={3.4} ry={2} />
                ) : (
                  <rect key={index} x={x - 3.4} y={y + side - 1.9} width={6.8} height={3.8} rx={0.8} />
                );
              })}
              <title>{shift.words}</title>
            </g>
          );
        })}
    </g>
  );
}

/** How deep a notch is, in pixels, and half as wide as that nearly. */
export const notchPx = (difficulty: number): number => 5 + 0.13 * Math.min(100, difficulty);

function Notches({ row, map, at }: Props) {
  return (
    <g>
      {map.seams
        .filter(
          (seam) =>
            seam.difficulty >= SHOWN_POINTS && holds(row, seam.is_repeat ? seam.from_quarters : seam.to_quarters),
        )
        .map((seam) => {
          const bar = row.bars.findLast((one) => one.measure.start_quarters <= seam.from_quarters + 1e-9);
          const x = seam.is_repeat && bar ? bar.x + bar.width : xOf(row, seam.to_quarters);
          const deep = notchPx(seam.difficulty);
          const isChosen = map.chosen_quarters === seam.to_quarters;
          const y = at.head - 1;
          return (
            <path
              key={`${seam.from_quarters} ${seam.to_quarters}`}
              data-seam={seam.to_quarters}
              d={`M${x} ${y}l${-deep * 0.62} ${-deep}h${deep * 1.24}z`}
              fill={seam.is_repeat ? "var(--color-paper)" : "var(--color-ink)"}
              stroke={isChosen ? "var(--color-righthand)" : "var(--color-ink)"}
              strokeWidth={isChosen ? 4 : seam.is_repeat ? 2 : 0}
              strokeLinejoin="round"
              paintOrder="stroke"
            >
              <title>{`${Math.round(seam.difficulty)} of 100${seam.is_repeat ? ", back" : ""}`}</title>
            </path>
          );
        })}
    </g>
  );
}
