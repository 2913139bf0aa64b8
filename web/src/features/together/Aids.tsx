/** What to point at in the notes before the hands are joined: chords that are broken, accidentals that hold, keys that both
 * hands want; each leads to its place. */
import { useState } from "react";

import type { TogetherMap } from "../../api/client";
import { Button } from "../../ui/kit";

/** So many are told at first. */
const FIRST = 5;

type Props = { aids: TogetherMap["aids"]; onLook: (at_quarters: number) => void };

export function Aids({ aids, onLook }: Props) {
  const [all, setAll] = useState(false);
  if (!aids.length) return null;
  return (
    <section aria-label="In the notes" className="mb-5">
      <h2 className="text-xl font-bold">In the notes</h2>
      <ul className="mt-1">
        {(all ? aids : aids.slice(0, FIRST)).map((aid) => (
          <li key={`${aid.kind} ${aid.words}`}>
            <button
              type="button"
              className="min-h-8 text-left hover:underline pointer-coarse:min-h-11"
              onClick={() => onLook(aid.onset_quarters)}
            >
              {aid.words}
            </button>
          </li>
        ))}
      </ul>
      {aids.length > FIRST ? (
        <Button look="quiet" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `All ${aids.length}`}
        </Button>
      ) : null}
    </section>
  );
}
