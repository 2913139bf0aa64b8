/** Bar numbers and letters above a row; a bar can be chosen by them. */
import { memo } from "react";

import type { Measure, Ruler } from "../api/client";
import { type Row, xOf } from "./geometry";
import { LETTER_PX } from "./layout";
import type { Passage } from "../lib/passage";

export function inPassage(ruler: Ruler, passage: Passage | null, measure: Measure): boolean {
  if (!passage) return false;
  const index = ruler.measures.indexOf(measure);
  return index >= passage.from && index <= passage.to;
}

export const BarHeads = memo(function BarHeads({
  row,
  ruler,
  passage,
  onBar,
}: {
  row: Row;
  ruler: Ruler;
  passage: Passage | null;
  onBar: ((index: number, extend: boolean) => void) | undefined;
}) {
  return (
    <>
      {row.measures.map((measure) => {
        const left = xOf(row, measure.start_quarters);
        const chosen = inPassage(ruler, passage, measure);
        const index = ruler.measures.indexOf(measure);
        const name =
          (measure.bar_in_line === 0 ? "pickup" : measure.number) +
          (measure.pass_number > 1 ? ` (${measure.pass_number})` : "");
        return (
          <div
            key={measure.start_quarters}
            data-bar={measure.start_quarters}
            className="absolute top-0 flex justify-between text-sm"
            style={{ left, width: measure.length_quarters * row.scale }}
          >
            {onBar ? (
              <button
                type="button"
                aria-pressed={chosen}
                aria-label={`bar ${measure.number}, line ${measure.line}, bar ${measure.bar_in_line}`}
                className={`min-w-6 rounded px-1 text-left font-bold ${chosen ? "bg-ink text-card" : "text-ink hover:bg-here"}`}
                onClick={(event) => onBar(index, event.shiftKey)}
              >
                {name}
              </button>
            ) : (
              <span className="px-1 font-bold">{name}</span>
            )}
            {measure.length_quarters * row.scale > LETTER_PX ? (
              <span className="pr-1 text-quiet" title="Bars with the same letter have the same rhythm">
                {measure.letter}
              </span>
            ) : null}
          </div>
        );
      })}
    </>
  );
});
