/** What can be written over a stretch: one phrase, a hairpin, the pedal. */
import { useState } from "react";

import type { WrittenItem } from "../../api/client";
import type { PencilAct } from "../../api/queries/score";
import { Choice } from "../../ui/Choice";
import { Button } from "../../ui/kit";
import { WHOSE, type Whose } from "./NotePanel";

export function StretchPanel({
  from,
  to,
  isBusy,
  act,
  onDone,
}: {
  from: WrittenItem;
  to: WrittenItem;
  isBusy: boolean;
  act: (what: PencilAct) => Promise<boolean>;
  onDone: () => void;
}) {
  const [whose, setWhose] = useState<Whose>("");
  const at = { measure: from.measure, offset: from.offset };
  const end = { measure: to.measure, offset: to.end_offset };
  const hand = whose === "" ? null : whose;
  const write = async (what: PencilAct) => {
    if (await act(what)) onDone();
  };
  const canPhrase = !from.is_rest && !to.is_rest && from.hand === to.hand;
  return (
    <section aria-label="A stretch" className="mb-5 rounded-lg bg-card p-5">
      <h2 className="text-lg font-bold">
        From bar {from.measure} to bar {to.measure}
      </h2>
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Button
          className="px-2 py-2"
          disabled={isBusy || !canPhrase}
          onClick={() => void write({ do: "add", change: { kind: "phrase", first: from.id, last: to.id } })}
        >
          One phrase
        </Button>
        <Button
          className="px-2 py-2"
          disabled={isBusy}
          onClick={() => void write({ do: "add", change: { kind: "pedal", at, end } })}
        >
          Pedal
        </Button>
        <Button
          className="px-2 py-2"
          disabled={isBusy}
          onClick={() => void write({ do: "add", change: { kind: "hairpin", at, end, text: "crescendo", hand } })}
        >
          Crescendo
        </Button>
        <Button
          className="px-2 py-2"
          disabled={isBusy}
          onClick={() => void write({ do: "add", change: { kind: "hairpin", at, end, text: "diminuendo", hand } })}
        >
          Diminuendo
        </Button>
      </div>
      <div className="mt-2">
        <Choice label="Hairpin for" value={whose} options={WHOSE} onChange={setWhose} />
      </div>
      {canPhrase ? null : (
        <p className="mt-2 text-sm text-quiet">A phrase goes from a note to a note of the same hand.</p>
      )}
      <Button look="quiet" className="mt-2" onClick={onDone}>
        Only one note
      </Button>
    </section>
  );
}
