/** What came of the last start: a problem, a take that could not be sent, or what was said of the take and what is next. */
import { Suspense, lazy } from "react";
import { Link } from "react-router";

import type { Piece, Schemas } from "../../api/client";
import { useFeel } from "../../api/queries/studies";
import { canBeDone, stateWords, statusWords } from "../../api/trade";
import { loaded } from "../../lib/loading";
import type { PracticeSession } from "../../session/practice";
import type { Standing } from "../../session/state";
import { Button, Problem } from "../../ui/kit";

/** What is seen only after a take is loaded then. */
const ThrowAway = lazy(() => loaded(() => import("./AfterTake")).then((it) => ({ default: it.ThrowAway })));
const Hearing = lazy(() => loaded(() => import("./AfterTake")).then((it) => ({ default: it.Hearing })));

export type Cure = NonNullable<NonNullable<Schemas["VerdictTold"]>["cure"]>;

type Props = { piece: Piece; session: PracticeSession; state: Standing; onCure: (cure: Cure) => void };

export function Outcome({ piece, session, state, onCure }: Props) {
  if (state.problem) {
    return (
      <Problem error={state.problem}>
        {state.unsent ? (
          <p className="mt-2">
            {"shelved" in state.unsent ? "The recording" : "The take"} is kept on this device.{" "}
            <Button look="quiet" onClick={() => session.sendAgain()}>
              Send it again
            </Button>
            <Button look="quiet" onClick={() => session.throwAway()}>
              Throw it away
            </Button>
          </p>
        ) : null}
      </Problem>
    );
  }
  if (state.hearing)
    return (
      <Suspense>
        <Hearing stage={state.hearing} />
      </Suspense>
    );
  if (!state.take) return null;
  const { verdict, failure } = state.take;
  const cure = verdict?.cure;
  return (
    <div className="rounded-lg bg-here p-3">
      <div role="status">
        <p className="text-lg font-bold first-letter:uppercase">
          {verdict ? statusWords(verdict.status) : stateWords(state.take.state)}
        </p>
        <p>
          {verdict
            ? (verdict.finding?.text ?? verdict.good[0] ?? `Lap Tick lost its place at ${verdict.place_text}.`)
            : failure}
        </p>
        {state.next ? <p className="mt-1 font-semibold">{state.next.onward}</p> : null}
      </div>
      {cure ? (
        <p className="mt-2 border-l-4 border-righthand pl-2">
          {cure.text}{" "}
          {!canBeDone(cure) ? null : (
            <Button look="quiet" keys="C" disabled={state.phase !== "idle"} onClick={() => onCure(cure)}>
              Do that
            </Button>
          )}
        </p>
      ) : null}
      <div className="mt-1 flex flex-wrap items-center gap-x-3">
        <Link to={`/pieces/${piece.id}/takes/${state.take.id}`} className="font-bold underline">
          See this take
        </Link>
        <Suspense>
          <ThrowAway pieceId={piece.id} take={state.take} session={session} disabled={state.phase !== "idle"} />
        </Suspense>
        {state.next ? <Feeling key={state.take.id} pieceId={piece.id} takeId={state.take.id} /> : null}
      </div>
    </div>
  );
}

const FEELS = [
  ["easy", "easy"],
  ["all-right", "all right"],
  ["hard", "hard"],
  ["tired", "tired"],
  ["it-hurts", "it hurts"],
] as const;

/** What the student says after a run: *hard* stops a step of the tempo, *tired* and *it hurts* end the session. */
function Feeling({ pieceId, takeId }: { pieceId: number; takeId: number }) {
  const feel = useFeel(pieceId);
  const said = feel.variables?.feel;
  if (said && feel.isSuccess) {
    return (
      <span role="status">
        {said === "it-hurts"
          ? "Stop now, and rest. Go on only when a doctor or a teacher who knows playing injuries says so."
          : said === "tired"
            ? "Enough for today."
            : said === "hard"
              ? "Kept: the tempo stays."
              : "Kept."}
      </span>
    );
  }
  return (
    <span role="group" aria-label="How it was" className="flex flex-wrap items-center gap-x-1">
      <span className="text-sm text-quiet">How was it?</span>
      {FEELS.map(([key, words]) => (
        <Button key={key} look="quiet" disabled={feel.isPending} onClick={() => feel.mutate({ takeId, feel: key })}>
          {words}
        </Button>
      ))}
      {feel.error ? <Problem error={feel.error} /> : null}
    </span>
  );
}
