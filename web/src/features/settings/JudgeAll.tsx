/** Takes that an earlier checker judged, judged anew; what was said before is kept. */
import { Link } from "react-router";

import { isOver } from "../../api/queries/jobs";
import type { Schemas } from "../../api/client";
import { useJudgeAll, useJudgingJob, useOutdatedTakes } from "../../api/queries/takes";
import { statusWords } from "../../api/trade";
import { count, timeOf } from "../../lib/words";
import { Button, Problem } from "../../ui/kit";

export function JudgeAll() {
  const outdated = useOutdatedTakes();
  const job = useJudgingJob().data ?? null;
  const judge = useJudgeAll();
  const waiting = outdated.data?.takes ?? 0;
  const isAtIt = job !== null && !isOver(job);
  const error = judge.error ?? outdated.error;
  return (
    <section aria-label="Takes judged before" className="mb-8">
      <h2 className="mb-2 text-xl font-bold">Takes judged before</h2>
      {isAtIt ? (
        <div role="status" className="mb-2">
          <p>
            {job.whole ? `${job.progress} of ${count(job.whole, "take")} judged anew …` : "Judging …"} You can leave
            this page; it goes on.
          </p>
          <progress className="my-2 block w-full max-w-md" value={job.progress} max={job.whole || 1}>
            {job.progress} of {job.whole}
          </progress>
          <Button disabled={judge.isPending} onClick={() => judge.mutate(job.id)}>
            Stop here
          </Button>
        </div>
      ) : (
        <>
          <p className="mb-2">
            {waiting
              ? `An earlier checker judged ${count(waiting, "take")}. Judged anew, each keeps what was said of it before.`
              : null}
            {outdated.data && !waiting
              ? `All takes are judged by the present checker (version ${outdated.data.checker_version}).`
              : null}
          </p>
          {waiting ? (
            <Button disabled={judge.isPending} onClick={() => judge.mutate(null)}>
              {`Judge ${count(waiting, "take")} anew`}
            </Button>
          ) : null}
        </>
      )}
      <div role="status">
        {job?.error ? <p className="text-warn first-letter:uppercase">{job.error.what}</p> : null}
        {job?.state === "stopped" ? <p>Stopped; what was judged stays so.</p> : null}
        {job?.judged && job.judged.judged + job.judged.unread > 0 ? <Outcome {...job.judged} /> : null}
      </div>
      {error ? <Problem error={error} /> : null}
    </section>
  );
}

function Outcome({ judged, unread, changed, more }: Schemas["JudgedAgain"]) {
  return (
    <>
      <p>
        {count(judged, "take")} judged anew;{" "}
        {changed.length ? `${count(changed.length + more, "verdict")} changed:` : "no verdict changed."}
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
      {more ? <p className="mt-1">And {more} more.</p> : null}
      {unread ? (
        <p className="mt-1">
          {count(unread, "take")} could not be read and {unread === 1 ? "keeps its" : "keep their"} verdict.
        </p>
      ) : null}
    </>
  );
}
