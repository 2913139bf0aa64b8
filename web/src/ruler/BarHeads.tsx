/** Bar numbers and letters above a row, and what is counted from a bar on; a bar can be chosen by its number. */
import { memo } from "react";

import type { Measure, Ruler } from "../api/client";
import type { Passage } from "../lib/passage";
import { type Row, barName } from "./geometry";
import type { Heights } from "./layout";

export function inPassage(ruler: Ruler, passage: Passage | null, measure: Measure): boolean {
  if (!passage) return false;
  const index = ruler.measures.indexOf(measure);
  return index >= passage.from && index <= passage.to;
}

/** A bar narrower than this has room for its name only. */
const LETTER_PX = 76;

type Props = {
  row: Row;
  ruler: Ruler;
  passage: Passage | null;
  at: Heights;
  units: ReadonlyMap<number, string>;
  onBar: ((index: number, extend: boolean) => void) | undefined;
  /** What is said of each bar between its name and its letter, where there is room. */
  notes?: ReadonlyMap<number, string> | undefined;
};

/** A bar narrower than this has no room for what is said of it. */
const NOTE_PX = 150;

/** A pickup has no number in print; it is called the same on the screen and to a reader. */
const spokenName = (measure: Measure) =>
  measure.bar_in_line === 0
    ? `pickup, line ${measure.line}`
    : `bar ${measure.number}, line ${measure.line}, bar ${measure.bar_in_line}`;

export const BarHeads = memo(function BarHeads({ row, ruler, passage, at, units, onBar, notes }: Props) {
  return (
    <>
      {row.bars.map(({ measure, x, width }) => {
        const chosen = inPassage(ruler, passage, measure);
        const unit = units.get(measure.start_quarters);
        const note = notes?.get(measure.start_quarters);
        const name = (
          <>
            <span className="font-semibold">{barName(measure)}</span>
            {unit ? <span className="ml-2">{unit}</span> : null}
          </>
        );
        return (
          <div
            key={measure.start_quarters}
            data-bar={measure.start_quarters}
            className="absolute flex items-stretch overflow-x-clip text-sm leading-none whitespace-nowrap"
            style={{ left: x, width, top: at.top, height: at.names - at.top - (onBar ? 0 : 4) }}
          >
            {onBar ? (
              <button
                type="button"
                data-kept=""
                aria-pressed={chosen}
                aria-label={spokenName(measure)}
                className={[
                  `min-w-7 ${measure.cue || measure.chords.length ? "" : "grow"} rounded-sm px-1 text-left pointer-coarse:min-w-11`,
                  chosen ? "bg-ink text-card" : "text-ink hover:bg-here",
                ].join(" ")}
                onClick={(event) => onBar(ruler.measures.indexOf(measure), event.shiftKey)}
              >
                {name}
              </button>
            ) : (
              <span className="self-center px-1">{name}</span>
            )}
            {measure.chords.length ? (
              <span className="self-center px-1 text-quiet">{measure.chords.join(" ")}</span>
            ) : null}
            {measure.cue ? (
              <span className="self-center rounded-sm bg-here px-1 font-semibold text-ink">“{measure.cue}”</span>
            ) : null}
            {note && width > NOTE_PX && !unit ? <span className="self-center px-1 text-quiet">{note}</span> : null}
            {width > LETTER_PX && !unit && !measure.cue ? (
              <span
                className={`ml-auto self-center px-1 text-quiet ${notes ? "mr-3" : ""}`}
                title="Bars with the same letter have the same rhythm"
              >
                {measure.letter}
              </span>
            ) : null}
          </div>
        );
      })}
    </>
  );
});
