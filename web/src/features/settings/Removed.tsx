/** What was removed and can be put back: pieces, students, takes, listenings. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Schemas, api, unwrap } from "../../api/client";
import { timeOf } from "../../lib/words";
import { Button, Loading, Problem, useToast } from "../../ui/kit";

type Item = Schemas["RemovedItem"];

const useRemoved = () =>
  useQuery({ queryKey: ["removed"], queryFn: () => unwrap(api.GET("/api/removed")), staleTime: 0 });

const BACK: Record<Item["kind"], (id: number) => Promise<unknown>> = {
  piece: (piece_id) => unwrap(api.POST("/api/pieces/{piece_id}/restore", { params: { path: { piece_id } } })),
  student: (student_id) => unwrap(api.POST("/api/students/{student_id}/restore", { params: { path: { student_id } } })),
  take: (take_id) => unwrap(api.POST("/api/takes/{take_id}/restore", { params: { path: { take_id } } })),
  listening: (listening_id) =>
    unwrap(api.POST("/api/listenings/{listening_id}/restore", { params: { path: { listening_id } } })),
};

const KINDS: Record<Item["kind"], string> = {
  piece: "piece",
  student: "student",
  take: "take",
  listening: "what was heard",
};

export function Removed() {
  const removed = useRemoved();
  const client = useQueryClient();
  const toast = useToast();
  const back = useMutation({
    mutationFn: (item: Item) => BACK[item.kind](item.id),
    onSuccess: async (_, item) => {
      toast(`“${item.words}” is back.`);
      await client.invalidateQueries();
    },
  });
  if (removed.error) return <Problem error={removed.error} />;
  if (!removed.data) return <Loading what="Fetching what was removed" />;
  const { items, kept_days: days } = removed.data;
  return (
    <section aria-label="Removed" className="max-w-3xl">
      <p className="mb-3 text-quiet">
        What was removed can be put back for {days} days, as it was, with its sound; then it is gone for good. What was
        erased, and sound whose consent was withdrawn, went at once.
      </p>
      {items.length === 0 ? <p>Nothing was removed in the last {days} days.</p> : null}
      <ul className="divide-y divide-line border-y border-line empty:hidden">
        {items.map((item) => (
          <li key={`${item.kind} ${item.id}`} className="flex flex-wrap items-center gap-x-5 gap-y-1 py-2">
            <span className="w-32 text-quiet">{KINDS[item.kind]}</span>
            <span className="min-w-0 flex-1">
              <b>{item.words}</b>
              {[item.whose, item.created_at ? timeOf(item.created_at) : null]
                .filter(Boolean)
                .map((words) => `, ${words}`)
                .join("")}
            </span>
            <span className="text-quiet">removed {timeOf(item.deleted_at)}</span>
            <Button
              disabled={back.isPending}
              aria-label={`Put back ${KINDS[item.kind]} “${item.words}”`}
              onClick={() => back.mutate(item)}
            >
              Put back
            </Button>
          </li>
        ))}
      </ul>
      {back.error ? <Problem error={back.error} /> : null}
    </section>
  );
}
