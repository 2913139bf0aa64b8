/** A piece's takes, newest first. */
import { Link } from "react-router";

import { type TakeAsked, useDeleteTake, useTakes } from "../../api/queries";
import { STATUS_WORDS, timeOf } from "../../lib/words";
import { Loading, Problem, useToast } from "../../ui/kit";
import { FileDrop } from "./FileDrop";
import { HeardList } from "./HeardList";

export const RUNG_WORDS = { count: "the count", lap: "lap taps", play: "at the keys" } as const;
const PLAYED_BY = { student: "", simulated: "simulated student · ", file: "from a file · " } as const;
const SHAPES = { steady: "●", nearly: "◐", "not-yet": "○", "could-not-follow": "?" } as const;

/** ``asked``: what a take from a file would be, as the workspace stands. */
export function TakeList({ pieceId, asked, passageWords }: { pieceId: number; asked: TakeAsked; passageWords: string }) {
  const takes = useTakes(pieceId);
  const remove = useDeleteTake(pieceId);
  const toast = useToast();
  return (
    <section aria-label="Takes" className="mt-2">
      <h2 className="mb-1 text-lg font-bold">Takes</h2>
      <FileDrop pieceId={pieceId} asked={asked} passageWords={passageWords} />
      {takes.error ? <Problem error={takes.error} /> : null}
      {takes.isPending ? <Loading what="Fetching the takes" /> : null}
      {takes.data?.length === 0 ? <p className="text-quiet">None yet. Press R, wait for the count-in, and tap or play; or bring a MIDI file.</p> : null}
      <ul className="divide-y divide-line">
        {takes.data?.map((take) => (
          <li key={take.id} className="flex flex-wrap items-baseline gap-x-4 py-1.5">
            <span className="w-36 font-bold"><span aria-hidden>{SHAPES[take.overruled ?? take.verdict.status]}</span> {STATUS_WORDS[take.overruled ?? take.verdict.status]}</span>
            <span className="min-w-0 flex-1 max-md:basis-full max-md:order-last">
              <Link to={`/pieces/${pieceId}/takes/${take.id}`} className="underline decoration-line decoration-2 underline-offset-4 hover:decoration-ink">
                {take.verdict.finding?.text ?? take.verdict.good[0] ?? `Lost at ${take.verdict.place_text}.`}
              </Link>
              <span className="block text-sm text-quiet">
                {RUNG_WORDS[take.rung]}{take.hands === "both" ? "" : `, ${take.hands} hand`}{take.measures ? `, ${take.measures.includes("-") ? "bars" : "bar"} ${take.measures.replace("-", "–")}` : ""} · {take.median_bpm ? `at ${Math.round(take.median_bpm)}, asked ${take.assigned_bpm}` : `asked ${take.assigned_bpm}`} ·{" "}
                {PLAYED_BY[take.played_by]}{timeOf(take.created_at)}{take.overruled ? " · by your word" : ""}{take.note ? " · with a note" : ""}
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
      <HeardList pieceId={pieceId} />
    </section>
  );
}
