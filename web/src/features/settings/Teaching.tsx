/** How the studio teaches: every question of school, for every level or for one, each answer with its reason. */
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { usePutStudioSchool, useStudioSchool } from "../../api/queries/studies";
import { levels } from "../../api/trade";
import { Choice } from "../../ui/Choice";
import { Loading, Problem } from "../../ui/kit";

type Level = Schemas["Level"];
const USUAL = "";

/** What is usual at some levels, where it is the same at all of them. */
function usualAt(usual: Schemas["StudioSchoolPublic"]["usual"], at: readonly Level[], key: string): string | undefined {
  const [one, ...others] = new Set(at.map((level) => usual[level]?.[key]));
  return others.length ? undefined : one;
}

export function Teaching() {
  const school = useStudioSchool();
  const put = usePutStudioSchool();
  const [level, setLevel] = useState<Level | "">("");
  if (school.error) return <Problem error={school.error} />;
  if (!school.data) return <Loading what="Fetching how you teach" />;
  const { answers, questions, usual } = school.data;
  const own = answers[level] ?? {};
  const change = (key: string, value: string) => {
    const left = Object.fromEntries(Object.entries(own).filter(([one]) => one !== key));
    put.mutate({ level: level || null, answers: value === USUAL ? left : { ...left, [key]: value } });
  };
  return (
    <section aria-label="How we teach" className="max-w-2xl">
      <h2 className="mb-2 text-lg font-bold">How we teach</h2>
      <p className="mb-3 text-quiet">
        From separate hands to together. What is chosen here makes the ladder of every piece; a piece may have its own.
      </p>
      <div className="mb-5 max-w-md">
        <Choice
          label="At"
          value={level}
          options={[["", "every level"], ...levels()]}
          onChange={(to) => setLevel(to as Level | "")}
        />
      </div>
      <div className="grid gap-3">
        {questions.map((question) => {
          const value = own[question.key] ?? USUAL;
          const usually = usualAt(usual, level ? [level] : levels().map(([one]) => one), question.key);
          const wordsOf = (one: string | undefined) => question.answers.find((answer) => answer.value === one)?.words;
          const answer = question.answers.find((one) => one.value === (value || usually));
          return (
            <div key={question.key}>
              <Choice
                label={question.words}
                value={value}
                options={[
                  [USUAL, usually ? `as usual: ${wordsOf(usually)}` : "as is usual at each level"],
                  ...question.answers.map((one) => [one.value, one.words] as const),
                ]}
                onChange={(to) => change(question.key, to)}
              />
              <p className="text-sm text-quiet">
                {answer?.why ??
                  levels()
                    .map(([one, words]) => `${words}: ${wordsOf(usual[one]?.[question.key])}`)
                    .join(" · ")}
              </p>
            </div>
          );
        })}
      </div>
      {put.error ? <Problem error={put.error} /> : null}
    </section>
  );
}
