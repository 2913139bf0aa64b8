/** A piece for one student or several: which piece, who, given. */
import { useState } from "react";

import { usePieces } from "../../api/queries/pieces";
import { useGiveStudy, useStudents } from "../../api/queries/students";
import { count } from "../../lib/words";
import { Sheet } from "../../ui/Sheet";
import { Button, Loading, Problem, useToast } from "../../ui/kit";

type Props = {
  /** Who is thought of; others can be added. */
  student: number;
  /** Pieces that are on the go already. */
  given: ReadonlySet<number>;
  onClose: () => void;
};

export function GiveStudy({ student, given, onClose }: Props) {
  const pieces = usePieces();
  const students = useStudents().data ?? [];
  const give = useGiveStudy();
  const toast = useToast();
  const [who, setWho] = useState<ReadonlySet<number>>(new Set([student]));
  const [find, setFind] = useState("");
  const wanted = find.trim().toLocaleLowerCase();
  const shown = (pieces.data ?? []).filter((one) => one.title.toLocaleLowerCase().includes(wanted));
  const toggle = (id: number) =>
    setWho((old) => new Set(old.has(id) ? [...old].filter((one) => one !== id) : [...old, id]));
  return (
    <Sheet open onClose={onClose} title="Give a piece">
      {students.length > 1 ? (
        <fieldset className="mb-3">
          <legend className="text-quiet">To</legend>
          <div className="flex max-h-40 flex-wrap gap-x-5 overflow-y-auto">
            {students
              .filter((one) => !one.is_paused)
              .map((one) => (
                <label key={one.id} className="flex min-h-10 items-center gap-2 pointer-coarse:min-h-11">
                  <input type="checkbox" checked={who.has(one.id)} onChange={() => toggle(one.id)} />
                  {one.name}
                </label>
              ))}
          </div>
        </fieldset>
      ) : null}
      <label className="mb-2 flex items-center gap-2">
        <span className="text-quiet">Piece</span>
        <input
          type="search"
          value={find}
          placeholder="part of its title"
          onChange={(event) => setFind(event.target.value)}
          className="min-h-10 min-w-0 flex-1 rounded-lg border border-edge bg-card px-3"
        />
      </label>
      {pieces.isPending ? <Loading what="Fetching the pieces" /> : null}
      {pieces.error ? <Problem error={pieces.error} /> : null}
      {give.error ? <Problem error={give.error} /> : null}
      <ul className="max-h-80 divide-y divide-line overflow-y-auto border-y border-line">
        {shown.map((piece) => (
          <li key={piece.id} className="flex items-center gap-3 py-1">
            <span className="min-w-0 flex-1 truncate">
              {piece.title}{" "}
              <span className="text-sm text-quiet">
                {piece.signature} · {count(piece.bars, "bar")}
                {given.has(piece.id) ? " · on the go" : ""}
              </span>
            </span>
            <Button
              aria-label={`Give “${piece.title}”`}
              disabled={give.isPending || who.size === 0}
              onClick={() =>
                give.mutate(
                  { student_ids: [...who], piece_id: piece.id, measures: "" },
                  {
                    onSuccess: () => {
                      toast(`“${piece.title}” is given to ${count(who.size, "student")}.`);
                      onClose();
                    },
                  },
                )
              }
            >
              Give
            </Button>
          </li>
        ))}
      </ul>
      {pieces.data && shown.length === 0 ? (
        <p className="mt-2 text-quiet">No piece on the shelf is called that.</p>
      ) : null}
    </Sheet>
  );
}
