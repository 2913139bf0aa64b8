/** Takes that an earlier checker judged, judged anew; what was said before is kept. */
import { Link } from "react-router";

import { useJudgeAll, useOutdatedTakes } from "../../api/queries/takes";
import { statusWords } from "../../api/trade";
import { count, timeOf } from "../../lib/words";
import { Button, Problem } from "../../ui/kit";

export function JudgeAll() {
  const outdated = useOutdatedTakes();
  const judge = useJudgeAll();
  const waiting = outdated.data?.takes ?? 0;
  const error = judge.error ?? outdated.error;
  return (
    <section aria-label="Takes judged before" className="mb-8">
      <h2 className="mb-2 text-xl font-bold">Takes judged before</h2>
      <p className="mb-2">
        {waiting
          ? `An earlier checker judged ${count(waiting, "take")}. Judged anew, each keeps what was said of it before.`
          : null}
        {outdated.data && !waiting && !judge.data
          ? `All takes are judged by the present checker (version ${outdated.data.checker_version}).`
          : null}
      </p>
      {waiting ? (
        <Button disabled={judge.isPending} onClick={() => judge.mutate()}>
          {judge.isPending ? "Judging …" : `Judge ${count(waiting, "take")} anew`}
        </Button>
      ) : null}
      <div role="status">{judge.data ? <Outcome {...judge.data} /> : null}</div>
      {error ? <Problem error={error} /> : null}
    </section>
  );
}

function Outcome({ judged, unread, changed }: NonNullable<ReturnType<typeof useJudgeAll>["data"]>) {
  return (
    <>
      <p>
        {count(judged, "take")} judged anew;{" "}
        {changed.length ? `${count(changed.length, "verdict")} changed:` : "no verdict changed."}
      </p>
      <ul className="mt-1 divide-y divide-line">
        {changed.map((one) => (
          <li key={one.take_id} className="py-2">
            <Link
              to={`/pieces/${one.piece_id}/takes/${one.take_id}`}
              className="underline decoration-line decoration-2 underline-offset-4 hover:decoration-ink"
            >
              {one.title}, {timeOf(one.created_at)}
            </Link>
            {`: ${statusWords(one.before)} → `}
            <b>{statusWords(one.after)}</b>
          </li>
        ))}
      </ul>
      {unread ? (
        <p className="mt-1">
          {count(unread, "take")} could not be read and {unread === 1 ? "keeps its" : "keep their"} verdict.
        </p>
      ) : null}
    </>
  );
}
