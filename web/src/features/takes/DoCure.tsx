/** What the checker advises, done from the page of a take: set up and counted in, with one press or one key. */
import { useEffect } from "react";
import { useNavigate } from "react-router";

import type { Piece, Take } from "../../api/client";
import { Button } from "../../ui/kit";

/** Where what the checker advises can be done: with the bars, hands, tempo and counting that it names. */
function doCureAt(piece: Piece, take: Take): string | null {
  const cure = take.verdict?.cure;
  if (!cure || cure.code === "other-passage") return null;
  if (cure.code === "line-up") return `/pieces/${piece.id}?view=together`;
  const { hands } = take.settings as { hands: string };
  const at = new URLSearchParams({ free: cure.rung ?? take.activity, hands: cure.hands ?? hands });
  if (cure.measures) at.set("bars", cure.measures);
  if (cure.bpm) at.set("bpm", String(cure.bpm));
  if (cure.within) at.set("within", cure.within);
  if (cure.density) at.set("density", cure.density);
  at.set("begin", "");
  return `/pieces/${piece.id}?${at}`;
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
  if (to === null) return null;
  return (
    <Button look="quiet" keys="C" className="mt-1 font-bold" onClick={() => void navigate(to)}>
      Do that now
    </Button>
  );
}
