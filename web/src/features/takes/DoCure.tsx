/** What the checker advises, done from the page of a take: set up and counted in, with one press or one key. */
import { useEffect } from "react";
import { Link, useNavigate } from "react-router";

import type { Piece, Take } from "../../api/client";
import { canBeDone } from "../../api/trade";
import { Button } from "../../ui/kit";

/** Where what the checker advises can be done: with the bars, hands, tempo and counting that it names. */
function doCureAt(piece: Piece, take: Take): string | null {
  const cure = take.verdict?.cure;
  if (!cure || !canBeDone(cure)) return null;
  const student = String(take.student_id);
  if (cure.code === "line-up") return `/pieces/${piece.id}?view=together&student=${student}`;
  const { hands } = take.settings as { hands: string };
  const at = new URLSearchParams({ student, free: cure.rung ?? take.activity, hands: cure.hands ?? hands });
  if (cure.measures) at.set("bars", cure.measures);
  if (cure.bpm) at.set("bpm", String(cure.bpm));
  if (cure.within) at.set("within", cure.within);
  if (cure.density) at.set("density", cure.density);
  at.set("begin", "");
  return `/pieces/${piece.id}?${at}`;
}

/** The place of the finding as a drill, to be looked at: the spot or the bars of its cure, else the bar it is in. */
function drillAt(piece: Piece, { verdict }: Take): string | null {
  const measures = verdict?.cure?.measures ?? verdict?.place?.measure;
  if (!verdict?.finding || !measures) return null;
  const at = new URLSearchParams({ of: String(piece.id), measures });
  if (verdict.cure?.measures && verdict.cure.within) at.set("within", verdict.cure.within);
  return `/drills/spot?${at}`;
}

export function DoCure({ piece, take }: { piece: Piece; take: Take }) {
  const navigate = useNavigate();
  const to = doCureAt(piece, take);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      if (event.key.toLowerCase() !== "c" || event.ctrlKey || event.metaKey || event.altKey) return;
      if (to === null || target?.closest("input, textarea, select, [role=dialog], [role=menu], [role=listbox]")) return;
      event.preventDefault();
      void navigate(to);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [navigate, to]);
  const drill = drillAt(piece, take);
  return (
    <div className="mt-1 flex flex-wrap gap-x-3" data-screen-only="">
      {to === null ? null : (
        <Button look="quiet" keys="C" onClick={() => void navigate(to)}>
          Do that now
        </Button>
      )}
      {drill === null ? null : (
        <Link className="inline-flex min-h-8 items-center underline pointer-coarse:min-h-11" to={drill}>
          This spot in all keys
        </Link>
      )}
    </div>
  );
}
