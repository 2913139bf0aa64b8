/** The rung one stands on: what to do and why, the tempo and its stops, the rounds, somebody's word, what came of it. */
import { type ReactNode, Suspense, lazy, useState } from "react";

import type { Counts, Piece, Rung, Study } from "../../api/client";
import { useWord } from "../../api/queries/studies";
import { useIsTeacher } from "../../api/me";
import { count } from "../../lib/words";
import type { CardChoice } from "../../session/cardChoice";
import { loaded } from "../../lib/loading";
import type { PracticeSession } from "../../session/practice";
import type { Standing } from "../../session/state";
import type { Keyboards } from "../../sound/keyboard";
import { Choice } from "../../ui/Choice";
import { Button, Dot, Problem } from "../../ui/kit";
import { CountIn } from "./CountIn";
import { Starting } from "./Starting";

const HowHeard = lazy(() => loaded(() => import("./HowHeard")).then((it) => ({ default: it.HowHeard })));

/** What the computer plays over and over; who cannot keep up with it goes back a rung. */
const LOOPS = [
  ["none", "once, as it is"],
  ["left", "the computer plays the left hand"],
  ["right", "the computer plays the right hand"],
] as const;

type Props = {
  piece: Piece;
  study: Study;
  rung: Rung;
  counts: Counts | undefined;
  choice: CardChoice;
  bpm: number;
  onBpm: (bpm: number) => void;
  /** Other bars than the rung's are chosen: which. */
  otherBars: string | null;
  onRungBars: () => void;
  session: PracticeSession;
  state: Standing;
  keyboards: Keyboards;
  outcome: ReactNode;
  settings: ReactNode;
  onLineUp: () => void;
  onTapCount: () => void;
  onEdit: () => void;
  /** Which hand the computer plays, looped, while one plays the other. */
  loop: "right" | "left" | null;
  onLoop: (hand: "right" | "left" | null) => void;
  /** To the rung below, where there is one. */
  onBack: (() => void) | null;
};

export function RungCard(props: Props) {
  const { piece, study, rung, counts, choice, session, state, keyboards } = props;
  const busy = state.phase !== "idle";
  const byWord = rung.gate.kind === "word";
  const isTeacher = useIsTeacher();
  const isTaken = rung.activity !== null && rung.stage !== "count";
  return (
    <section data-screen-only="" aria-label="This rung" className="rounded-lg bg-card p-5">
      <p className="text-sm text-quiet">
        {rung.title}
        {rung.hands === "both" ? "" : `, ${rung.hands} hand`} · {rung.group}
      </p>
      <h2 className="text-lg font-bold">{rung.stage === "finish" ? rung.title : rung.stage_words}</h2>
      <p>{rung.task}</p>
      {rung.touch ? <p className="font-semibold">Touch: {rung.touch}</p> : null}
      <p className="mb-2 text-sm text-quiet">Why: {rung.why}</p>
      <Starting
        piece={piece}
        bpm={props.bpm}
        onBpm={props.onBpm}
        session={session}
        state={state}
        outcome={props.outcome}
        start={isTaken ? (choice.rounds > 1 ? "Start the rounds" : "Record") : null}
        shortStart={choice.rounds > 1 ? "Rounds" : "Record"}
        onStart={() => session.record(choice.rounds)}
        {...(rung.stage === "hear" ? { playWords: "Hear it" } : {})}
        {...(rung.stage === "count" ? { playWords: "Say it with the click" } : {})}
      />
      <Stops rung={rung} />
      <CountIn counts={counts} />
      {props.otherBars ? (
        <p className="my-1 rounded-lg bg-here px-2 py-1">
          Only {props.otherBars} now.{" "}
          <button type="button" className="font-bold underline" onClick={props.onRungBars}>
            Back to {rung.title.toLowerCase()}
          </button>
        </p>
      ) : null}
      <Gate study={study} rung={rung} />
      <div className="my-2 flex flex-wrap gap-2">
        {rung.stage === "line-up" ? <Button onClick={props.onLineUp}>Line it up</Button> : null}
        {rung.stage === "count" ? (
          <Button look="quiet" disabled={busy} onClick={props.onTapCount}>
            Tap it instead
          </Button>
        ) : null}
        <Word study={study} rung={rung} byWord={byWord} disabled={busy} />
        {isTeacher ? (
          <Button look="quiet" disabled={busy} onClick={props.onEdit}>
            Change this rung
          </Button>
        ) : null}
      </div>
      {rung.activity === "play" && rung.stage !== "finish" ? (
        <Choice
          label="Play along, looped:"
          value={props.loop ?? "none"}
          options={LOOPS}
          onChange={(hand) => props.onLoop(hand === "none" ? null : hand)}
        />
      ) : null}
      {props.loop ? (
        <p className="mt-1 text-sm">
          Keep up with it before you go on; who cannot goes back a rung.{" "}
          {props.onBack ? (
            <Button look="quiet" disabled={busy} onClick={props.onBack}>
              Back a rung
            </Button>
          ) : null}
        </p>
      ) : null}
      {rung.activity === "play" || rung.activity === "lap" ? (
        <Suspense>
          <HowHeard
            piece={piece}
            hands={rung.hands}
            activity={rung.activity}
            student={study.student_id}
            keyboards={keyboards}
            disabled={busy}
          />
        </Suspense>
      ) : null}
      <details className="mt-3 border-t border-line pt-2">
        <summary className="cursor-pointer py-1">Rounds, sounds, click …</summary>
        {props.settings}
      </details>
      {rung.caution ? <p className="mt-2 text-sm text-quiet">{rung.caution}</p> : null}
    </section>
  );
}

function Stops({ rung }: { rung: Rung }) {
  const ahead = rung.tempos.filter((bpm) => bpm > rung.bpm);
  if (!ahead.length) return null;
  return <p className="text-sm text-quiet">stops at {ahead.join(" · ")}</p>;
}

/** What passes it, and how far that has come. */
function Gate({ study, rung }: { study: Study; rung: Rung }) {
  return (
    <p className="my-1 flex flex-wrap items-center gap-x-2">
      <span>Passed {rung.gate.kind === "word" ? rung.gate.words : `by ${rung.gate.words}`}</span>
      {rung.clean.length ? (
        <span
          className="flex gap-1"
          role="img"
          aria-label={`${rung.clean.filter(Boolean).length} clean of the last ${rung.clean.length}`}
        >
          {rung.clean.map((isOn, index) => (
            <Dot key={index} isOn={isOn} />
          ))}
        </span>
      ) : null}
      <span className="text-sm text-quiet">{progressWords(rung, study.tries_a_day)}</span>
      {rung.is_enough ? (
        <span className="text-sm font-semibold">Enough of this for today: something smaller, or tomorrow.</span>
      ) : null}
    </p>
  );
}

type WordProps = { study: Study; rung: Rung; byWord: boolean; disabled: boolean };

/** Somebody's word on it: what goes by word is done when it is said to be; any other rung the teacher may pass. */
function Word({ study, rung, byWord, disabled }: WordProps) {
  const word = useWord(study);
  const [why, setWhy] = useState<string | null>(null);
  const say = (back: boolean, reason = "") =>
    word.mutate(
      { rung: rung.key, by: byWord ? "the student" : "the teacher", why: reason.trim(), back },
      { onSuccess: () => setWhy(null) },
    );
  const passed = rung.state === "passed";
  const isTeacher = useIsTeacher();
  const canTakeBack = isTeacher && passed && rung.passed_by !== "the checker";
  return (
    <>
      {passed || why !== null || !(isTeacher || byWord) ? null : (
        <Button
          look={byWord ? "plain" : "quiet"}
          disabled={disabled || word.isPending}
          onClick={() => (byWord ? say(false) : setWhy(""))}
        >
          {byWord ? "Done" : "Pass it by your word"}
        </Button>
      )}
      {why === null || passed ? null : (
        <form
          className="flex basis-full flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            say(false, why);
          }}
        >
          <input
            autoFocus
            value={why}
            maxLength={500}
            aria-label="Why you pass it"
            placeholder="Why, if you like"
            onChange={(event) => setWhy(event.target.value)}
            className="min-h-10 basis-full rounded-lg border border-edge bg-card px-3"
          />
          <Button type="submit" disabled={disabled || word.isPending}>
            Pass it
          </Button>
          <Button look="quiet" onClick={() => setWhy(null)}>
            Leave it
          </Button>
        </form>
      )}
      {canTakeBack ? (
        <Button look="quiet" disabled={disabled || word.isPending} onClick={() => say(true)}>
          Take that word back
        </Button>
      ) : null}
      {word.error ? <Problem error={word.error} /> : null}
    </>
  );
}

/** ``2 of 3 clean``, ``third try of six today``: how far a rung has come, in a line. */
function progressWords(rung: Rung, triesADay: number): string {
  if (rung.state === "passed") return `passed, by ${rung.passed_by}${rung.passed_why ? `: ${rung.passed_why}` : ""}`;
  const clean = rung.clean.filter(Boolean).length;
  const tries = rung.tries_today
    ? `${count(rung.tries_today, "try", "tries")} of ${triesADay} today`
    : "not tried today";
  return clean ? `${clean} clean · ${tries}` : tries;
}
