/** The whole piece as one strip of boxes, a box a bar: full where both hands know it, half where something of it is. The
 * same strip wherever a piece appears. */
import type { Schemas } from "../api/client";

type State = Schemas["BarState"];

const FILL: Record<State, string> = {
  known: "bg-ink",
  begun: "bg-[linear-gradient(to_top,var(--color-ink)_50%,transparent_50%)]",
  untouched: "bg-card",
};

type Props = { states: readonly State[]; className?: string };

export function BarStrip({ states, className = "" }: Props) {
  if (!states.length) return null;
  return (
    <span role="img" aria-label={stripWords(states)} className={`inline-flex gap-px ${className}`}>
      {states.map((state, bar) => (
        <span key={bar} className={`h-3 min-w-px flex-1 border border-edge ${FILL[state]}`} />
      ))}
    </span>
  );
}

function stripWords(states: readonly State[]): string {
  const known = states.filter((state) => state === "known").length;
  const begun = states.filter((state) => state === "begun").length;
  return `${known} of ${states.length} bars known with both hands, ${begun} begun`;
}
