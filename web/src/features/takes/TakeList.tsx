/** A piece's takes, newest first. */
import { Link } from "react-router";

import { useDeleteTake, useTakes } from "../../api/queries";
import { STATUS_WORDS, timeOf } from "../../lib/words";
import { Loading, Problem, useToast } from "../../ui/kit";

const SHAPES = { steady: "●", nearly: "◐", "not-yet": "○", "could-not-follow": "?" } as const;

export function TakeList({ pieceId }: { pieceId: number }) {
  const takes = useTakes(pieceId);
  const remove = useDeleteTake(pieceId);
  const toast = useToast();
  return (
    <section aria-label="Takes" className="mt-2">
      <h2 className="mb-1 text-lg font-bold">Takes</h2>
      {takes.error ? <Problem error={takes.error} /> : null}
      {takes.isPending ? <Loading what="Fetching the takes" /> : null}
      {takes.data?.length === 0 ? <p className="text-quiet">None yet. Press R, wait for the count-in, and tap.</p> : null}
      <ul className="divide-y divide-line">
        {takes.data?.map((take) => (
          <li key={take.id} className="flex flex-wrap items-baseline gap-x-4 py-1.5">
            <span className="w-36 font-bold"><span aria-hidden>{SHAPES[take.verdict.status]}</span> {STATUS_WORDS[take.verdict.status]}</span>
            <span className="min-w-0 flex-1 max-md:basis-full max-md:order-last">
              <Link to={`/pieces/${pieceId}/takes/${take.id}`} className="underline decoration-line decoration-2 underline-offset-4 hover:decoration-ink">
                {take.verdict.finding?.text ?? take.verdict.good[0] ?? `Lost at ${take.verdict.place_text}.`}
              </Link>
              <span className="block text-sm text-quiet">
                {take.rung === "lap" ? "lap taps" : "the count"} · {take.median_bpm ? `at ${Math.round(take.median_bpm)}, asked ${take.assigned_bpm}` : `asked ${take.assigned_bpm}`} ·{" "}
                {take.played_by === "simulated" ? "simulated student · " : ""}{timeOf(take.created_at)}{take.note ? " · with a note" : ""}
              </span>
            </span>
            <button type="button" aria-label={`Delete the take of ${timeOf(take.created_at)}`} className="px-1 text-quiet underline hover:text-ink"
              onClick={() => remove.mutate({ id: take.id, deleted: true }, {
                onSuccess: () => toast("The take is deleted.", () => remove.mutate({ id: take.id, deleted: false })),
              })}>
              delete
            </button>
          </li>
        ))}
      </ul>
      {remove.error ? <Problem error={remove.error} /> : null}
    </section>
  );
}
