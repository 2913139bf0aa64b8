/** One line of what a piece keeps: its verdict in a word, what it says, and its deletion, which can be undone. */
import type { ReactNode } from "react";

import { useToast } from "../../ui/kit";

type Remove = { mutate: (what: { id: number; deleted: boolean }, then?: { onSuccess: () => void }) => void };

export function KeptRow({
  id,
  mark,
  words,
  what,
  remove,
  children,
}: {
  id: number;
  mark: string;
  words: string;
  what: { name: string; gone: string };
  remove: Remove;
  children: ReactNode;
}) {
  const toast = useToast();
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 py-1.5">
      <span className="w-36 font-bold">
        <span aria-hidden>{mark}</span> {words}
      </span>
      <span className="min-w-0 flex-1 max-md:order-last max-md:basis-full">{children}</span>
      <button
        type="button"
        aria-label={`Delete ${what.name}`}
        className="px-1 text-quiet underline hover:text-ink"
        onClick={() =>
          remove.mutate(
            { id, deleted: true },
            {
              onSuccess: () => toast(what.gone, () => remove.mutate({ id, deleted: false })),
            },
          )
        }
      >
        delete
      </button>
    </li>
  );
}
