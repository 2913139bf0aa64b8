/** Where it is hardest to join, with the reason in words; each leads to its place. */
import { useState } from "react";

import type { HardPlace } from "../../api/client";
import { Button } from "../../ui/kit";

type Props = {
  places: readonly HardPlace[];
  chosen: HardPlace | null;
  onLook: (place: HardPlace) => void;
  onLineUp: (place: HardPlace) => void;
  onPractise: (place: HardPlace) => void;
  /** A rung of its own on the ladder. */
  onLadder: ((place: HardPlace) => void) | null;
  /** As a drill in all keys. */
  onDrill: ((place: HardPlace) => void) | null;
};

/** So many are told at first. */
const FIRST = 4;

const keyOf = (place: HardPlace) => `${place.kind} ${place.from_quarters} ${place.to_quarters}`;

export function HardestFirst({ places, chosen, onLook, onLineUp, onPractise, onLadder, onDrill }: Props) {
  const [all, setAll] = useState(false);
  const shown = all ? places : places.slice(0, FIRST);
  const current = chosen ?? places[0] ?? null;
  return (
    <section aria-label="Hardest first" className="rounded-lg border border-line bg-card p-4">
      <h2 className="text-xl font-bold">Hardest first</h2>
      {places.length ? (
        <ol className="mt-2">
          {shown.map((place, index) => {
            const isHere = current !== null && keyOf(place) === keyOf(current);
            return (
              <li
                key={keyOf(place)}
                className={`-mx-2 rounded-lg p-2 ${isHere ? "bg-here" : ""} ${all || index === 0 ? "" : "max-xl:hidden"}`}
              >
                <button
                  type="button"
                  aria-expanded={isHere}
                  className="min-h-8 w-full text-left font-bold hover:underline pointer-coarse:min-h-11"
                  onClick={() => onLook(place)}
                >
                  {place.title}
                </button>
                <span
                  role="img"
                  aria-label={`${Math.round(place.difficulty)} of 100`}
                  className="my-1 block h-1.5 rounded-sm bg-line"
                >
                  <span
                    className={`block h-full rounded-sm ${isHere ? "bg-righthand" : "bg-ink"}`}
                    style={{ width: `${place.difficulty}%` }}
                  />
                </span>
                <p className={isHere ? "" : "line-clamp-2"}>{place.words}</p>
                {isHere ? (
                  <p className="mt-1 flex flex-wrap gap-x-5">
                    <Button look="quiet" onClick={() => onLineUp(place)}>
                      Line it up
                    </Button>
                    <Button look="quiet" onClick={() => onPractise(place)}>
                      Practise it
                    </Button>
                    {place.within && onLadder ? (
                      <Button look="quiet" onClick={() => onLadder(place)}>
                        Onto the ladder
                      </Button>
                    ) : null}
                    {place.within && onDrill ? (
                      <Button look="quiet" onClick={() => onDrill(place)}>
                        In all keys
                      </Button>
                    ) : null}
                  </p>
                ) : null}
              </li>
            );
          })}
        </ol>
      ) : (
        <p className="mt-2">No place stands out: both hands have time for all that they do.</p>
      )}
      {places.length > 1 ? (
        <Button look="quiet" className={places.length > FIRST ? "mt-2" : "mt-2 xl:hidden"} onClick={() => setAll(!all)}>
          {all ? "Fewer" : `All ${places.length}`}
        </Button>
      ) : null}
    </section>
  );
}
