/** A piece's takes, newest first. */
import type { ReactNode } from "react";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { type TakeAsked, useDeleteTake, useTakes } from "../../api/queries/takes";
import { activityName, stateWords, statusWords } from "../../api/trade";
import { takenWords } from "../../lib/passage";
import { timeOf, plainBpm } from "../../lib/words";
import { Button, Loading, Problem } from "../../ui/kit";
import { FileDrop } from "./FileDrop";
import { HeardList } from "./HeardList";
import { KeptRow } from "./KeptRow";

const PLAYED_BY = { student: "", simulated: "simulated student · ", file: "from a file · " } as const;
const SHAPES = { steady: "●", nearly: "◐", "not-yet": "○", "could-not-follow": "?" } as const;

/** What is said in place of a verdict. */
const NOT_JUDGED: Record<Schemas["TakeState"], string> = {
  coming: "Its recording is not all here.",
  waiting: "Waits to be judged.",
  judged: "What was said of it cannot be read.",
  failed: "What was said of it cannot be read.",
};

/** How and when a take was played, in a line. */
function circumstances(take: Schemas["TakeShort"]): string {
  const taken = takenWords(take.measures, take.times_round, take.within);
  return [
    activityName(take.activity) + (take.hands === "both" ? "" : `, ${take.hands} hand`) + (taken ? `, ${taken}` : ""),
    (take.median_bpm ? `at ${Math.round(take.median_bpm)}, ` : "") + `asked ${plainBpm(take.assigned_bpm)}`,
    PLAYED_BY[take.played_by] + timeOf(take.created_at),
    ...(take.overruled ? ["by your word"] : []),
    ...(take.note ? ["with a note"] : []),
  ].join(" · ");
}

/** The shape and the word for what holds of a take. */
function signOf(take: Schemas["TakeShort"]): { mark: string; words: string } {
  const status = take.overruled ?? take.verdict?.status;
  return status ? { mark: SHAPES[status], words: statusWords(status) } : { mark: "…", words: stateWords(take.state) };
}

function sentenceOf({ verdict, state, failure }: Schemas["TakeShort"]): string {
  if (!verdict) return failure ?? NOT_JUDGED[state];
  return verdict.finding?.text ?? verdict.good[0] ?? `Lap Tick lost its place at ${verdict.place_text}.`;
}

/** ``asked``: what a take from a file would be, as the workspace stands. */
export function TakeList({
  pieceId,
  student,
  asked,
  passageWords,
  demo,
}: {
  pieceId: number;
  /** Whose takes. */
  student: number;
  asked: TakeAsked;
  passageWords: string;
  /** For who is only looking. */
  demo: ReactNode;
}) {
  const takes = useTakes(pieceId, student);
  const remove = useDeleteTake(pieceId);
  return (
    <section aria-label="Takes" className="mt-2">
      <h2 className="mb-1 text-lg font-bold">Takes</h2>
      <FileDrop pieceId={pieceId} asked={asked} passageWords={passageWords} />
      {takes.error ? <Problem error={takes.error} /> : null}
      {takes.isPending ? <Loading what="Fetching the takes" /> : null}
      {takes.data?.length === 0 ? (
        <p className="text-quiet">None yet. Press R, wait for the count-in, and tap or play; or bring a MIDI file.</p>
      ) : null}
      <ul className="divide-y divide-line">
        {takes.data?.map((take) => (
          <KeptRow
            key={take.id}
            id={take.id}
            {...signOf(take)}
            remove={remove}
            what={{ name: `the take of ${timeOf(take.created_at)}`, gone: "The take is removed." }}
          >
            <Link
              to={`/pieces/${pieceId}/takes/${take.id}`}
              className="underline decoration-line decoration-2 underline-offset-4 hover:decoration-ink"
            >
              {sentenceOf(take)}
            </Link>
            <span className="block text-sm text-quiet">{circumstances(take)}</span>
          </KeptRow>
        ))}
      </ul>
      {takes.hasNextPage ? (
        <Button look="quiet" disabled={takes.isFetchingNextPage} onClick={() => void takes.fetchNextPage()}>
          Earlier takes
        </Button>
      ) : null}
      {remove.error ? <Problem error={remove.error} /> : null}
      <HeardList pieceId={pieceId} />
      {demo}
    </section>
  );
}
