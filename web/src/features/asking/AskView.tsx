/** Questions to the student: the page without its counts and letters, one question at a time, the answer after the
 * student's own. */
import { useEffect, useRef, useState } from "react";

import type { Piece, Question, QuestionKind } from "../../api/client";
import { useAnswer, useQuestionKinds, useQuestions } from "../../api/queries/pieces";
import { Frame } from "../../notation/Frame";
import { Rows } from "../../notation/Rows";
import { around, useEngraved } from "../../notation/useEngraved";
import { Button, Loading, Problem } from "../../ui/kit";
import { CountText } from "../../ui/CountText";

export function AskView({ piece }: { piece: Piece }) {
  const kinds = useQuestionKinds(piece.id);
  const [chosen, setChosen] = useState<QuestionKind | null>(null);
  if (kinds.error) return <Problem error={kinds.error} />;
  if (!kinds.data) return <Loading what="Thinking of questions" />;
  const open = kinds.data.filter((kind) => kind.questions > 0);
  const kind = chosen ?? open[0]?.kind;
  return (
    <div className="grid gap-x-8 gap-y-5 lg:grid-cols-[240px_minmax(0,1fr)]">
      <nav aria-label="What to ask about">
        <p className="mb-2 text-sm text-quiet max-lg:hidden">For the student: nothing is told before it is answered.</p>
        <ul className="flex flex-wrap gap-2 lg:grid">
          {open.map((one) => (
            <li key={one.kind}>
              <button
                type="button"
                aria-current={one.kind === kind ? "true" : undefined}
                onClick={() => setChosen(one.kind)}
                className={[
                  "w-full rounded-lg border px-3 py-2 text-left max-md:py-1",
                  one.kind === kind
                    ? "border-ink bg-card font-bold shadow-[inset_0_0_0_1px_var(--color-ink)]"
                    : "border-edge hover:bg-here",
                ].join(" ")}
              >
                {one.title}
                <span className="block text-sm font-normal text-quiet max-md:hidden">
                  {one.asked ? `${one.right} of ${one.asked} right` : "not asked yet"}
                </span>
              </button>
            </li>
          ))}
        </ul>
      </nav>
      {kind ? <Round key={kind} piece={piece} kind={kind} /> : <p>There is nothing to ask about this piece.</p>}
    </div>
  );
}

/** Room left above what is asked about, in pixels. */
const ABOVE = 110;

/** A round of questions of one kind; when it is through, the next ones are fetched. */
function Round({ piece, kind }: { piece: Piece; kind: QuestionKind }) {
  const round = useQuestions(piece.id, kind);
  const [index, setIndex] = useState(0);
  const question = round.data?.[index];
  const { frame, page, boxes: places } = useEngraved(piece.id, 0, question?.notes);
  const next = () => {
    if (round.data && index + 1 < round.data.length) setIndex(index + 1);
    else void round.refetch().then(() => setIndex(0));
  };
  const boxes = (question?.notes ?? []).map((id) => places.get(id)).filter((box) => box !== undefined);
  // The page may be longer than the room for it: what is asked about is brought into sight.
  const room = useRef<HTMLDivElement>(null);
  const top = around(boxes)?.top;
  useEffect(() => {
    if (top !== undefined) room.current?.scrollTo({ top: Math.max(0, top - ABOVE) });
  }, [top, question?.key]);
  const isBar = question !== undefined && kind !== "names" && kind !== "skips";
  return (
    <div className="min-w-0">
      {round.error ? <Problem error={round.error} /> : null}
      {question ? (
        <Card key={`${question.key} ${round.dataUpdatedAt}`} piece={piece} question={question} onNext={next} />
      ) : round.error ? null : (
        <Loading what="Asking" />
      )}
      <div
        ref={room}
        role="region"
        tabIndex={0}
        aria-label="The page"
        className="mt-5 max-h-[62vh] overflow-y-auto rounded-lg border border-line bg-white p-2"
      >
        <div ref={frame} className="relative min-h-24">
          {page ? <Rows page={page} label={`${piece.title} in notation`} /> : <Loading what="Engraving" />}
          {isBar ? (
            <Frame box={around(boxes)} className="rounded-lg border-[3px] border-ink" pad={12} isPicked />
          ) : (
            boxes.map((box, at) => (
              <Frame key={at} box={box} className="rounded-xl border-[3px] border-ink" pad={7} isPicked />
            ))
          )}
        </div>
      </div>
    </div>
  );
}

function Card({ piece, question, onNext }: { piece: Piece; question: Question; onNext: () => void }) {
  const answer = useAnswer(piece.id, question.kind);
  const [given, setGiven] = useState<readonly string[]>([]);
  const told = answer.data;
  const send = (options: readonly string[]) => answer.mutate({ key: question.key, given: [...options] });
  const choose = (option: string) => {
    if (told || answer.isPending) return;
    if (!question.many) {
      setGiven([option]);
      send([option]);
    } else setGiven((old) => (old.includes(option) ? old.filter((one) => one !== option) : [...old, option]));
  };
  const looks = (option: string) => {
    if (told?.answer.includes(option))
      return "border-good bg-card font-bold text-good shadow-[inset_0_0_0_1px_var(--color-good)]";
    if (given.includes(option))
      return told ? "border-warn bg-card text-warn line-through" : "border-ink bg-ink font-bold text-card";
    return "border-edge bg-card hover:border-ink";
  };
  return (
    <section aria-label="The question" className="rounded-lg bg-card p-5">
      <h2 className="text-xl font-bold">{question.text}</h2>
      <div
        role="group"
        aria-label="Answers"
        className={`mt-3 flex flex-wrap gap-2 ${question.kind === "rhythms" ? "flex-col items-start" : ""}`}
      >
        {question.options.map((option) => (
          <button
            key={option}
            type="button"
            aria-pressed={given.includes(option)}
            onClick={() => choose(option)}
            aria-disabled={told !== undefined}
            className={`min-w-11 rounded-lg border px-3 py-2 ${looks(option)}`}
          >
            {question.kind === "rhythms" ? <CountText text={option} /> : option}
          </button>
        ))}
      </div>
      <div className="mt-3 flex min-h-11 flex-wrap items-center gap-5">
        {question.many && !told ? (
          <Button look="strong" disabled={!given.length || answer.isPending} onClick={() => send(given)}>
            That is my answer
          </Button>
        ) : null}
        <p role="status" className="text-lg font-bold">
          {told ? (
            told.is_right ? (
              <span className="text-good">
                ● Right: {question.kind === "rhythms" ? <CountText text={told.said} /> : told.said}.
              </span>
            ) : (
              <span className="text-warn">◐ Not yet: it is {told.said}.</span>
            )
          ) : (
            ""
          )}
        </p>
        {told ? (
          <Button look="strong" autoFocus onClick={onNext}>
            Next question
          </Button>
        ) : null}
      </div>
      {answer.error ? <Problem error={answer.error} /> : null}
    </section>
  );
}
