/** What was heard in listening mode, newest first. */
import { useDeleteListening, useListenings } from "../../api/queries";
import { count, timeOf } from "../../lib/words";
import { Problem, useToast } from "../../ui/kit";

export function HeardList({ pieceId }: { pieceId: number }) {
  const heard = useListenings(pieceId);
  const remove = useDeleteListening(pieceId);
  const toast = useToast();
  if (heard.error) return <Problem error={heard.error} />;
  if (!heard.data?.length) return null;
  return (
    <section aria-label="Heard" className="mt-4">
      <h2 className="mb-1 text-lg font-bold">Heard</h2>
      <ul className="divide-y divide-line">
        {heard.data.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-4 py-1.5">
            <span className="w-36 font-bold"><span aria-hidden>◇</span> {one.slips.length ? count(one.slips.length, "slip") : "no slip"}</span>
            <span className="min-w-0 flex-1 max-md:order-last max-md:basis-full">
              {one.slips.map((slip) => slip.place_text).join("; ") || "Nothing marked."}
              <span className="block text-sm text-quiet">{one.hands === "both" ? "both hands" : `${one.hands} hand`} · asked {one.bpm} · {timeOf(one.created_at)} · open a take to lay it beside</span>
            </span>
            <button type="button" aria-label={`Delete what was heard ${timeOf(one.created_at)}`} className="px-1 text-quiet underline hover:text-ink"
              onClick={() => remove.mutate({ id: one.id, deleted: true }, {
                onSuccess: () => toast("It is deleted.", () => remove.mutate({ id: one.id, deleted: false })),
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
