/** The ladder: rungs from the floor up. Only the rungs that work are offered. */
import type { RungKey, RungProgress } from "../../api/client";
import { STATE_SHAPES, count } from "../../lib/words";

export function LadderView({
  rungs,
  current,
  onChoose,
}: {
  rungs: RungProgress[];
  current: RungKey;
  onChoose: (key: RungKey) => void;
}) {
  return (
    <nav aria-label="Ladder" className="max-md:flex max-md:gap-2">
      <p className="mb-1 hidden text-sm text-quiet md:block md:border-l-2 md:border-dashed md:border-line md:py-8 md:pl-5">
        Higher rungs are not built yet.
      </p>
      <ol className="flex flex-col-reverse max-md:contents">
        {rungs.map((rung) => {
          const here = rung.key === current;
          return (
            <li key={rung.key} className="relative max-md:flex-1 md:border-l-2 md:border-ink md:py-3 md:pl-5">
              <span
                aria-hidden
                className={`absolute top-1/2 left-0 hidden w-3 md:block ${here ? "h-1.5 -translate-y-1/2 bg-ink" : "h-0.5 bg-ink"}`}
              />
              <button
                type="button"
                aria-current={here ? "step" : undefined}
                onClick={() => onChoose(rung.key as RungKey)}
                className={[
                  "w-full rounded-lg px-3 py-2 text-left",
                  here
                    ? "bg-card shadow-[inset_0_0_0_2px_var(--color-ink)]"
                    : "hover:bg-here max-md:border max-md:border-edge",
                ].join(" ")}
              >
                <span className="flex justify-between gap-2 font-bold">
                  {rung.title} <span aria-hidden>{STATE_SHAPES[rung.state]}</span>
                </span>
                <span className="text-sm text-quiet max-md:sr-only">{progressWords(rung)}</span>
              </button>
            </li>
          );
        })}
      </ol>
      <p aria-hidden className="ml-0 hidden border-t-4 border-ink text-sm text-quiet md:block">
        the floor
      </p>
    </nav>
  );
}

function progressWords(rung: RungProgress): string {
  if (rung.state === "untouched") return "not begun";
  if (rung.state === "steady") return "steady";
  return rung.clean_in_a_row
    ? `${rung.clean_in_a_row} of ${rung.clean_needed} clean in a row`
    : `${count(rung.takes, "try", "tries")} so far`;
}
