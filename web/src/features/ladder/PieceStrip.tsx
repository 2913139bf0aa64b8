/** The whole piece under the bars that are practised: which bars are known, which of them because the same was learnt
 * elsewhere, and where one is. A box is a bar that can be gone to. */
import { memo, useCallback, useEffect, useRef } from "react";

import type { Ruler, Study } from "../../api/client";
import type { Passage } from "../../lib/passage";

const STATE_WORDS = { untouched: "not begun", begun: "begun", known: "known with both hands" } as const;

type Props = {
  ruler: Ruler;
  bars: Study["bars"];
  here: Passage | null;
  onBar: (index: number, extend: boolean) => void;
};

/** Drawn anew only where something of it is another: a long piece has hundreds of boxes, and an edit of the ladder changes
 * none of them. */
export function PieceStrip({ ruler, bars, here, onBar }: Props) {
  const latest = useRef(onBar);
  useEffect(() => {
    latest.current = onBar;
  });
  const press = useCallback((index: number, extend: boolean) => latest.current(index, extend), []);
  return <Boxes ruler={ruler} bars={bars} from={here?.from ?? null} to={here?.to ?? null} onBar={press} />;
}

type BoxesProps = Pick<Props, "ruler" | "bars" | "onBar"> & { from: number | null; to: number | null };

const Boxes = memo(function Boxes({ ruler, bars, from, to, onBar }: BoxesProps) {
  const here = from === null || to === null ? null : { from, to };
  const elsewhere = bars.some((bar) => bar.elsewhere);
  return (
    <div className="my-3" data-screen-only="">
      <p className="mb-1 text-sm text-quiet">The whole piece</p>
      <ol className="flex flex-wrap gap-1" aria-label="The whole piece">
        {ruler.measures.map((measure, index) => {
          const bar = bars[index];
          if (!bar) return null;
          const isHere = here === null || (here.from <= index && index <= here.to);
          const words = `${measure.bar_in_line === 0 ? "pickup" : `bar ${measure.number}`}: ${STATE_WORDS[bar.state]}`;
          return (
            <li key={measure.start_quarters} className="min-w-8 flex-1">
              <button
                type="button"
                aria-label={bar.elsewhere ? `${words}, you already know it` : words}
                aria-pressed={isHere && here !== null}
                title={bar.elsewhere ? "You already know it: the same was learnt in another bar." : undefined}
                onClick={(event) => onBar(index, event.shiftKey)}
                className="flex min-h-9 w-full flex-col items-stretch text-center text-sm pointer-coarse:min-h-11"
              >
                <span
                  aria-hidden
                  className={[
                    "h-4 border",
                    isHere && here ? "border-2 border-righthand" : "border-edge",
                    bar.state === "known"
                      ? "bg-ink"
                      : bar.state === "begun"
                        ? "bg-[linear-gradient(to_top,var(--color-quiet)_50%,transparent_50%)]"
                        : "bg-card",
                  ].join(" ")}
                />
                <span aria-hidden className="leading-tight">
                  {measure.number}
                  {bar.elsewhere ? "✓" : ""}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
      {elsewhere ? (
        <p className="text-sm text-quiet">✓ you already know it: the same was learnt in another bar</p>
      ) : null}
    </div>
  );
});
