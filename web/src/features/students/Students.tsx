/** The students of the studio: who practised, what is on the go; and the way to each. */
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import type { Schemas } from "../../api/client";
import { type Facts, useAddStudent, useStudents } from "../../api/queries/students";
import { levels, wordsFor } from "../../api/trade";
import { count } from "../../lib/words";
import { Titled } from "../../ui/Titled";
import { Button, Loading, Problem } from "../../ui/kit";
import { DayStrip } from "./DayStrip";
import { StudentForm } from "./StudentForm";
import { WhoLeft } from "./WhoLeft";
import { daysOfWeek, lastPractised } from "./words";

type Short = Schemas["StudentShort"];

const NEW: Facts = {
  name: "",
  level: null,
  span: null,
  school: {},
  days_a_week: null,
  minutes_a_day: null,
  note: "",
  is_paused: false,
  things_a_day: null,
  softer_percent: 0,
};

/** So many can be seen at a glance; of more one is looked for. */
const GLANCE = 12;

export function Students() {
  const students = useStudents();
  const add = useAddStudent();
  const navigate = useNavigate();
  const [isAdding, setAdding] = useState(false);
  const [wanted, setWanted] = useState("");
  const all = students.data ?? [];
  const found = all.filter((one) => one.name.toLocaleLowerCase().includes(wanted.trim().toLocaleLowerCase()));
  const paused = found.filter((one) => one.is_paused);
  return (
    <main id="main" className="mx-auto max-w-[1320px] px-3 pt-3 pb-13 md:px-8">
      <Titled title="Students" />
      <div className="mb-5 flex flex-wrap items-center justify-between gap-3">
        <h1 tabIndex={-1} className="text-2xl font-bold focus:outline-none">
          Students
        </h1>
        {all.length > GLANCE ? (
          <label className="flex items-center gap-2 md:ml-auto">
            <span className="text-quiet">Find</span>
            <input
              type="search"
              value={wanted}
              onChange={(event) => setWanted(event.target.value)}
              className="min-h-10 min-w-0 rounded-lg border border-edge bg-card px-3"
            />
          </label>
        ) : null}
        <Button look="strong" onClick={() => setAdding(true)}>
          Add a student
        </Button>
      </div>
      {students.error ? <Problem error={students.error} /> : null}
      {students.isPending ? <Loading what="Fetching the students" /> : null}
      {students.data ? (
        <>
          <ul className="border-t border-line">
            {found
              .filter((one) => !one.is_paused)
              .map((one) => (
                <Row key={one.id} student={one} />
              ))}
          </ul>
          {found.length === 0 ? <p className="mt-3">Nobody’s name has “{wanted}” in it.</p> : null}
          {all.length === 1 ? (
            <p className="mt-5 max-w-prose text-quiet">
              One student comes with the studio; rename it as you like. Add others: each has ladders, takes and days of
              practice of their own, at a level of their own.
            </p>
          ) : null}
          {paused.length ? (
            <details className="mt-5">
              <summary className="min-h-8 cursor-pointer py-1">{count(paused.length, "student")} paused</summary>
              <ul className="border-t border-line">
                {paused.map((one) => (
                  <Row key={one.id} student={one} />
                ))}
              </ul>
            </details>
          ) : null}
          <WhoLeft />
        </>
      ) : null}
      {isAdding ? (
        <StudentForm
          title="A new student"
          facts={NEW}
          problem={add.error}
          busy={add.isPending}
          onKeep={(facts) => add.mutate(facts, { onSuccess: ({ id }) => void navigate(`/students/${id}`) })}
          onClose={() => {
            setAdding(false);
            add.reset();
          }}
        />
      ) : null}
    </main>
  );
}

function Row({ student }: { student: Short }) {
  const days = daysOfWeek(student.practised);
  return (
    <li className="relative flex flex-wrap items-center gap-x-8 gap-y-1 border-b border-line py-3 hover:bg-here">
      <Link
        to={`/students/${student.id}`}
        className="min-w-48 flex-1 truncate text-lg font-bold after:absolute after:inset-0 max-md:basis-full"
      >
        {student.name}
      </Link>
      <span className="w-32 text-quiet">{student.level ? wordsFor(levels(), student.level) : ""}</span>
      <span className="w-44">
        {student.studies ? `${count(student.studies, "study", "studies")} on the go` : "nothing given yet"}
      </span>
      <DayStrip practised={student.practised} className="w-64 max-md:w-auto" />
      <span className="w-52 text-right max-md:w-auto max-md:flex-1">
        <b>{lastPractised(student.practised)}</b>
        <span className="block text-sm text-quiet">{days ? `${days} of 7 days` : "no day of the last 7"}</span>
      </span>
    </li>
  );
}
