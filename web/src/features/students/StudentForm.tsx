/** What is kept of a student, to be filled in or changed. Only a name is needed. */
import { useState } from "react";

import type { Schemas } from "../../api/client";
import type { Facts } from "../../api/queries/students";
import { useStudioSchool } from "../../api/queries/studies";
import { levels } from "../../api/trade";
import { SPANS } from "../../lib/handSpan";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";
import { Button, Problem } from "../../ui/kit";

type Props = {
  title: string;
  facts: Facts;
  problem: unknown;
  busy: boolean;
  onKeep: (facts: Facts) => void;
  onClose: () => void;
};

const DAYS = ["1", "2", "3", "4", "5", "6", "7"] as const;
const MINUTES = ["5", "10", "15", "20", "25", "30", "40", "45", "60", "90"] as const;
const PACES = [
  ["", "up to three things a day"],
  ["2", "two things a day"],
  ["1", "one thing at a time"],
] as const;
const SOFTER = [
  ["0", "those of the level"],
  ["25", "a quarter wider"],
  ["50", "half as wide again"],
  ["100", "twice as wide"],
] as const;
const NOT_SAID = ["", "not said"] as const;

export function StudentForm({ title, facts, problem, busy, onKeep, onClose }: Props) {
  const [kept, setKept] = useState(facts);
  const change = (part: Partial<Facts>) => setKept((old) => ({ ...old, ...part }));
  const number = (value: string) => (value ? Number(value) : null);
  return (
    <Sheet open onClose={onClose} title={title}>
      <form
        className="grid gap-3 [&>div>span:first-child]:min-w-28"
        onSubmit={(event) => {
          event.preventDefault();
          if (kept.name.trim()) onKeep(kept);
        }}
      >
        <label className="flex flex-wrap items-center gap-x-2 gap-y-1">
          <span className="min-w-28 text-quiet">Name</span>
          <input
            data-autofocus=""
            value={kept.name}
            maxLength={200}
            required
            autoComplete="off"
            onChange={(event) => change({ name: event.target.value })}
            className="min-h-10 min-w-0 flex-1 rounded-lg border border-edge bg-card px-3"
          />
        </label>
        <Choice
          label="Level"
          value={kept.level ?? ""}
          options={[["", "as each piece says"], ...levels()]}
          hint="Ladders are built and takes judged at it."
          onChange={(level) => change({ level: level || null })}
        />
        <Choice
          label="Hand spans"
          value={kept.span ? String(kept.span) : ""}
          options={[NOT_SAID, ...SPANS]}
          onChange={(span) => change({ span: number(span) })}
        />
        <Choice
          label="Days a week"
          value={kept.days_a_week ? String(kept.days_a_week) : ""}
          options={[NOT_SAID, ...DAYS.map((one) => [one, one] as const)]}
          onChange={(days) => change({ days_a_week: number(days) })}
        />
        <Choice
          label="Minutes a day"
          value={kept.minutes_a_day ? String(kept.minutes_a_day) : ""}
          options={[NOT_SAID, ...MINUTES.map((one) => [one, one] as const)]}
          onChange={(minutes) => change({ minutes_a_day: number(minutes) })}
        />
        <Choice
          label="Pace"
          value={kept.things_a_day ? String(kept.things_a_day) : ""}
          options={PACES}
          onChange={(things) => change({ things_a_day: number(things) })}
        />
        <Choice
          label="Limits"
          value={String(kept.softer_percent ?? 0)}
          options={SOFTER}
          hint="Of takes that are judged from now on."
          onChange={(percent) => change({ softer_percent: Number(percent) })}
        />
        <label className="grid gap-1">
          <span className="text-quiet">Hands and technique, for you alone</span>
          <textarea
            value={kept.note}
            maxLength={4000}
            rows={3}
            onChange={(event) => change({ note: event.target.value })}
            className="rounded-lg border border-edge bg-card px-3 py-2"
          />
        </label>
        <OwnSchool school={kept.school ?? {}} onChange={(school) => change({ school })} />
        {problem ? <Problem error={problem} /> : null}
        <div className="flex flex-wrap gap-3">
          <Button type="submit" look="strong" disabled={busy || !kept.name.trim()}>
            Keep
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Sheet>
  );
}

type Answers = Record<string, string>;

/** How this student is taught, where it is otherwise than the studio teaches. */
function OwnSchool({ school, onChange }: { school: Answers; onChange: (school: Answers) => void }) {
  const [isOpen, setOpen] = useState(Object.keys(school).length > 0);
  return (
    <details open={isOpen} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="min-h-8 cursor-pointer py-1">How this student is taught</summary>
      {isOpen ? <Questions school={school} onChange={onChange} /> : null}
    </details>
  );
}

function Questions({ school, onChange }: { school: Answers; onChange: (school: Answers) => void }) {
  const found = useStudioSchool().data;
  const change = (question: Schemas["SchoolQuestionPublic"], value: string) => {
    const others = Object.fromEntries(Object.entries(school).filter(([key]) => key !== question.key));
    onChange(value ? { ...others, [question.key]: value } : others);
  };
  return (
    <div className="grid gap-3 pt-2">
      {found?.questions.map((question) => (
        <Choice
          key={question.key}
          label={question.words}
          value={school[question.key] ?? ""}
          options={[
            ["", "as the studio teaches"],
            ...question.answers.map(({ value, words }) => [value, words] as const),
          ]}
          onChange={(value) => change(question, value)}
        />
      ))}
    </div>
  );
}
