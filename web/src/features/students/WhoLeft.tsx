/** Students who left: put back with all that was played, or erased for good. */
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { whenMade } from "../../api/queries/client";
import { useErase, useStudentLeaves, useWhoLeft } from "../../api/queries/students";
import { count, timeOf } from "../../lib/words";
import { SaveCopy } from "../../ui/copies/SaveCopy";
import { Sheet } from "../../ui/Sheet";
import { Button, Problem, useToast } from "../../ui/kit";

type Left = Schemas["WhoLeftPublic"];

export function WhoLeft() {
  const left = useWhoLeft();
  const leaves = useStudentLeaves();
  const toast = useToast();
  const [erased, setErased] = useState<Left | null>(null);
  if (left.error) return <Problem error={left.error} />;
  if (!left.data?.length) return null;
  return (
    <details className="mt-5">
      <summary className="min-h-8 cursor-pointer py-1">{count(left.data.length, "student")} left the studio</summary>
      <p className="py-1 text-quiet">Thirty days after they left they are erased, with all that was played.</p>
      <ul className="border-t border-line">
        {left.data.map((one) => (
          <li key={one.id} className="flex flex-wrap items-center gap-x-5 gap-y-1 border-b border-line py-2">
            <b className="min-w-48 flex-1 truncate">{one.name}</b>
            <span className="text-quiet">left {timeOf(one.left_at)}</span>
            <Button
              disabled={leaves.isPending}
              onClick={() =>
                leaves.mutate(
                  { id: one.id, leaves: false },
                  { onSuccess: () => toast(`${one.name} is back, with all that was played.`) },
                )
              }
            >
              Put back
            </Button>
            <Button look="quiet" onClick={() => setErased(one)}>
              Erase …
            </Button>
          </li>
        ))}
      </ul>
      {leaves.error ? <Problem error={leaves.error} /> : null}
      {erased ? <Erasing student={erased} onClose={() => setErased(null)} /> : null}
    </details>
  );
}

/** What cannot be undone is said before it is done. */
function Erasing({ student, onClose }: { student: Left; onClose: () => void }) {
  const erase = useErase();
  const toast = useToast();
  return (
    <Sheet open onClose={onClose} title={`Erase ${student.name}`}>
      <p className="mb-3">
        All that is kept of {student.name} is deleted at once and for good: ladders, takes with their recordings and
        what was said of them, links, consents. The log keeps that it was done, without a name. Backups made before
        still hold it until they are replaced.
      </p>
      <div className="mb-5">
        <SaveCopy studentId={student.id} words="Save a copy first" />
      </div>
      {erase.error ? <Problem error={erase.error} /> : null}
      <p className="flex flex-wrap items-center gap-5">
        <Button
          look="strong"
          disabled={erase.isPending}
          onClick={() =>
            whenMade(erase.mutateAsync(student.id), () => {
              toast(`${student.name} is erased.`);
              onClose();
            })
          }
        >
          Erase for good
        </Button>
        <Button look="quiet" onClick={onClose}>
          Keep
        </Button>
      </p>
    </Sheet>
  );
}
