/** One line of what a piece keeps: its verdict in a word, what it says, and its removal, which can be undone. */
import type { ReactNode } from "react";

import { useIsTeacher } from "../../api/me";
import { More } from "../../ui/More";
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
    <li className="flex flex-wrap items-center gap-x-5 py-2">
      <span className="w-36 font-bold max-md:flex-1">
        <span aria-hidden>{mark}</span> {words}
      </span>
      <span className="min-w-0 flex-1 wrap-anywhere max-md:order-last max-md:basis-full">{children}</span>
      {useIsTeacher() ? (
        <More
          label={`More for ${what.name}`}
          items={[
            [
              "Remove",
              () =>
                remove.mutate(
                  { id, deleted: true },
                  {
                    onSuccess: () => toast(what.gone, () => remove.mutate({ id, deleted: false })),
                  },
                ),
            ],
          ]}
        />
      ) : null}
    </li>
  );
}
