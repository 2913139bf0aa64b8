/** What a hand cannot span, and what teachers let it choose. */
import type { TogetherMap } from "../../api/client";

export function Reaches({ reaches }: { reaches: TogetherMap["reaches"] }) {
  if (!reaches.length) return null;
  return (
    <section aria-label="Wider than the hand" className="mb-5">
      <h2 className="text-xl font-bold">Wider than the hand</h2>
      <ul className="mt-1 space-y-1">
        {reaches.map((reach) => (
          <li key={`${reach.hand} ${reach.onset_quarters}`}>
            <b className="first-letter:uppercase">{reach.place}</b>, {reach.hand} hand, {reach.steps + 1} white keys:{" "}
            {listed(reach.choices)}.
          </li>
        ))}
      </ul>
    </section>
  );
}

const listed = (words: readonly string[]) =>
  words.length < 2 ? (words[0] ?? "") : `${words.slice(0, -1).join(", ")} or ${words.at(-1)}`;
