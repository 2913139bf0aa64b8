/** A student: the studies on the go with how far each has come, the days of practice, what is agreed and noted. */
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import type { Schemas } from "../../api/client";
import { whenMade } from "../../api/queries/client";
import {
  type Facts,
  type StudentShown,
  useEndStudy,
  useStudent,
  useStudentLeaves,
  useStudentTakes,
  useUpdateStudent,
} from "../../api/queries/students";
import { levels, wordsFor } from "../../api/trade";
import { SPANS } from "../../lib/handSpan";
import { count, timeOf } from "../../lib/words";
import { BarStrip } from "../../ui/BarStrip";
import { More } from "../../ui/More";
import { SaveCopy } from "../../ui/copies/SaveCopy";
import { Sheet } from "../../ui/Sheet";
import { TakeLink } from "../../ui/takes/TakeLink";
import { circumstances, signOf } from "../../ui/takes/takeWords";
import { ProblemPlace, WayOut } from "../../ui/ProblemPlace";
import { Titled } from "../../ui/Titled";
import { Button, LoadingPlace, Problem, useToast } from "../../ui/kit";
import { DayStrip } from "./DayStrip";
import { GiveStudy } from "./GiveStudy";
import { Links } from "./Links";
import { StudentForm } from "./StudentForm";
import { agreedWords, daysOfWeek, lastPractised } from "./words";

type Study = Schemas["StudyShort"];

export function StudentPage() {
  const id = Number(useParams().studentId);
  const found = useStudent(id);
  if (found.error) {
    return (
      <ProblemPlace title="This student cannot be shown" error={found.error}>
        <WayOut to="/students">Back to the students</WayOut>
      </ProblemPlace>
    );
  }
  if (!found.data) return <LoadingPlace title="A student" what="Opening" />;
  return <Shown key={id} shown={found.data} />;
}

const factsOf = ({ student }: StudentShown): Facts => ({
  name: student.name,
  level: student.level ?? null,
  span: student.span ?? null,
  school: student.school ?? {},
  days_a_week: student.days_a_week ?? null,
  minutes_a_day: student.minutes_a_day ?? null,
  note: student.note ?? "",
  is_paused: student.is_paused ?? false,
  things_a_day: student.things_a_day ?? null,
  softer_percent: student.softer_percent ?? 0,
});

function Shown({ shown }: { shown: StudentShown }) {
  const { student, studies, practised } = shown;
  const update = useUpdateStudent(student.id);
  const [sheet, setSheet] = useState<"facts" | "give" | null>(null);
  const toast = useToast();
  const close = () => {
    setSheet(null);
    update.reset();
  };
  const keep = (facts: Facts, done: () => void) =>
    update.mutate({ version: student.version, facts }, { onSuccess: done });
  const going = studies.filter((one) => !one.is_ended);
  const ended = studies.filter((one) => one.is_ended);
  return (
    <main id="main" className="mx-auto max-w-[1320px] px-3 pt-3 pb-13 md:px-8">
      <Titled title={student.name} />
      <div className="mb-1 flex flex-wrap items-center gap-3">
        <h1 tabIndex={-1} className="min-w-0 flex-1 truncate max-md:basis-full text-2xl font-bold focus:outline-none">
          {student.name}
          {student.is_paused ? <span className="font-normal text-quiet"> · paused</span> : null}
        </h1>
        <Link
          to="tonight"
          className="inline-flex min-h-10 items-center font-semibold underline underline-offset-4 pointer-coarse:min-h-11"
        >
          Tonight
        </Link>
        <Button onClick={() => setSheet("facts")}>Change</Button>
        <Button look="strong" onClick={() => setSheet("give")}>
          Give a piece
        </Button>
        <StudentMore
          shown={shown}
          onPause={() =>
            keep({ ...factsOf(shown), is_paused: !student.is_paused }, () =>
              toast(student.is_paused ? `${student.name} plays again.` : `${student.name} is paused; all is kept.`),
            )
          }
        />
      </div>
      <Agreed shown={shown} />
      {update.error && sheet === null ? <Problem error={update.error} /> : null}
      <section aria-labelledby="going" className="mt-5">
        <h2 id="going" className="text-lg font-bold">
          On the go
        </h2>
        {going.length ? (
          <ul className="border-t border-line">
            {going.map((one) => (
              <StudyRow key={one.id} study={one} student={student} />
            ))}
          </ul>
        ) : (
          <p className="text-quiet">
            Nothing yet. Give a piece: its ladder is built {student.level ? "at this student’s level" : "at its level"},
            and stands here with how far it has come.
          </p>
        )}
      </section>
      {ended.length ? (
        <details className="mt-5">
          <summary className="min-h-8 cursor-pointer py-1">{count(ended.length, "study", "studies")} ended</summary>
          <ul className="border-t border-line">
            {ended.map((one) => (
              <StudyRow key={one.id} study={one} student={student} />
            ))}
          </ul>
        </details>
      ) : null}
      <section aria-labelledby="days" className="mt-8">
        <h2 id="days" className="text-lg font-bold">
          Practice
        </h2>
        <p className="mt-1 flex flex-wrap items-end gap-x-5 gap-y-2">
          <DayStrip practised={practised} />
          <span>
            Last practised: <b>{lastPractised(practised)}</b> · {daysOfWeek(practised)} of the last 7 days
            {student.days_a_week ? ` (${student.days_a_week} agreed)` : ""}
          </span>
        </p>
      </section>
      <Latest student={student.id} />
      <Links student={student.id} name={student.name} />
      {sheet === "facts" ? (
        <StudentForm
          title={student.name}
          facts={factsOf(shown)}
          problem={update.error}
          busy={update.isPending}
          onKeep={(facts) => keep(facts, close)}
          onClose={close}
        />
      ) : null}
      {sheet === "give" ? (
        <GiveStudy student={student.id} given={new Set(going.map((one) => one.piece_id))} onClose={close} />
      ) : null}
    </main>
  );
}

/** So many takes are shown at first, and after a press. */
const FEW = 5;
const MANY = 50;

/** What was played last, of any piece, with what was said of it. */
function Latest({ student }: { student: number }) {
  const [most, setMost] = useState(FEW);
  const takes = useStudentTakes(student, most);
  return (
    <section aria-labelledby="takes" className="mt-8">
      <h2 id="takes" className="text-lg font-bold">
        Latest takes
      </h2>
      {takes.error ? <Problem error={takes.error} /> : null}
      {takes.data?.items.length === 0 ? <p className="text-quiet">None yet.</p> : null}
      <ul className="divide-y divide-line">
        {takes.data?.items.map((take) => {
          const { mark, words } = signOf(take);
          return (
            <li key={take.id} className="flex flex-wrap gap-x-5 py-2">
              <span className="w-36 font-bold">
                <span aria-hidden>{mark}</span> {words}
              </span>
              <span className="min-w-0 flex-1 wrap-anywhere max-md:basis-full">
                <TakeLink pieceId={take.piece_id} take={take} />
                <span className="block text-sm text-quiet">
                  {take.title} · {circumstances(take)}
                </span>
              </span>
            </li>
          );
        })}
      </ul>
      {takes.data?.next && most === FEW ? (
        <Button look="quiet" onClick={() => setMost(MANY)}>
          Earlier takes
        </Button>
      ) : null}
    </section>
  );
}

/** Level, span, what is agreed, what the teacher noted. */
/** From so many takes on that the teacher overruled, softer limits are offered. */
const OFTEN = 3;

function Agreed({ shown: { student, overruled } }: { shown: StudentShown }) {
  const span = SPANS.find(([key]) => key === String(student.span))?.[1];
  const words = [
    student.level ? wordsFor(levels(), student.level) : "at each piece’s level",
    ...(span ? [`a hand spans ${span}`] : []),
    ...[agreedWords(student.days_a_week, student.minutes_a_day)].filter(Boolean),
    ...(student.softer_percent ? [`limits ${student.softer_percent} % wider`] : []),
    ...(student.things_a_day ? [student.things_a_day === 1 ? "one thing at a time" : "two things a day"] : []),
    ...(Object.keys(student.school ?? {}).length ? ["taught in a way of their own"] : []),
  ];
  return (
    <>
      <p className="text-quiet">{words.join(" · ")}</p>
      {overruled >= OFTEN && !student.softer_percent ? (
        <p className="mt-2 max-w-prose">
          {count(overruled, "take")} of these weeks you call better than the checker does. If that is so for this
          student, <b>Change</b> has softer limits.
        </p>
      ) : null}
      {student.note ? <p className="mt-2 max-w-prose whitespace-pre-line">{student.note}</p> : null}
    </>
  );
}

function StudentMore({ shown: { student }, onPause }: { shown: StudentShown; onPause: () => void }) {
  const leaves = useStudentLeaves();
  const navigate = useNavigate();
  const toast = useToast();
  const [isSaving, setSaving] = useState(false);
  const onLeave = () =>
    whenMade(leaves.mutateAsync({ id: student.id, leaves: true }, { onError: (error) => toast(error.message) }), () => {
      void navigate("/students");
      toast(`${student.name} is off the list, with all that was played; for 30 days it can be put back.`, () =>
        leaves.mutate({ id: student.id, leaves: false }),
      );
    });
  return (
    <>
      <More
        label={`More for ${student.name}`}
        items={[
          [student.is_paused ? "Plays again" : "Pauses for a while", onPause],
          ["Save a copy …", () => setSaving(true)],
          ...(student.is_built_in ? [] : ([["Leaves the studio", onLeave]] as const)),
        ]}
      />
      <Sheet open={isSaving} onClose={() => setSaving(false)} title={`A copy of what is ${student.name}’s`}>
        <p className="mb-3">
          The pieces, ladders, takes and recordings of {student.name} as one zip of ordinary files: to give along, or
          for another teacher’s studio. Nothing of anybody else is in it.
        </p>
        <SaveCopy studentId={student.id} words="Save the copy" />
      </Sheet>
    </>
  );
}

type RowProps = { study: Study; student: StudentShown["student"] };

function StudyRow({ study, student }: RowProps) {
  const end = useEndStudy();
  const toast = useToast();
  const whose = student.is_built_in ? {} : { student: String(student.id) };
  const passage = study.measures ? { passage: study.measures } : {};
  const onEnd = () =>
    whenMade(end.mutateAsync({ id: study.id, ended: !study.is_ended }), () =>
      toast(study.is_ended ? `“${study.title}” is on the go again.` : `“${study.title}” is ended; all is kept.`, () =>
        end.mutate({ id: study.id, ended: study.is_ended }),
      ),
    );
  return (
    <li className="relative flex flex-wrap items-center gap-x-5 gap-y-1 border-b border-line py-3">
      <Link
        to={`/pieces/${study.piece_id}?${new URLSearchParams({ ...whose, ...passage, view: "practise" })}`}
        className="min-w-56 flex-1 truncate text-lg font-bold after:absolute after:inset-0 hover:underline max-md:basis-full"
      >
        {study.title}
        {study.measures ? <span className="font-normal">, bars {study.measures.replace("-", "–")}</span> : null}
      </Link>
      {study.unread ? (
        <span className="text-warn">its score cannot be read</span>
      ) : (
        <>
          <BarStrip states={study.bar_states} className="w-48" />
          <span className="w-32">
            {study.passed} of {count(study.rungs, "rung")}
          </span>
          <b className="w-44">{study.next_words ?? "all of it is done"}</b>
        </>
      )}
      <span className="w-56 text-sm text-quiet">
        {study.takes && study.last_at
          ? `${count(study.takes, "take")}, last ${timeOf(study.last_at)}`
          : "not tried yet"}
      </span>
      <More
        label={`More for “${study.title}”`}
        items={[[study.is_ended ? "Take it up again" : "It is ended", onEnd]]}
      />
      {end.error ? <Problem error={end.error} /> : null}
    </li>
  );
}
