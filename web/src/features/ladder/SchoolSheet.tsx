/** How a ladder is taught: every question of school with its answers, each with its reason, and who chose it. */
import type { Study } from "../../api/client";
import { useSchool } from "../../api/queries/studies";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";
import { Button, Problem } from "../../ui/kit";

const CHOSEN_WORDS = {
  study: "chosen for this piece",
  student: "this student’s",
  level: "the studio’s, at this level",
  studio: "the studio’s",
} as const;

export function SchoolSheet({ study, open, onClose }: { study: Study; open: boolean; onClose: () => void }) {
  const school = useSchool(study);
  const own = Object.fromEntries(
    study.school.filter((one) => one.chosen === "study").map((one) => [one.key, one.value] as const),
  );
  return (
    <Sheet open={open} onClose={onClose} title="How it is taught">
      <p className="mb-3 text-quiet">For this piece only; the studio’s own way stands under Settings, Teaching.</p>
      <div className="grid gap-3">
        {study.school.map((question) => {
          const answer = question.answers.find((one) => one.value === question.value);
          return (
            <div key={question.key}>
              <Choice
                label={question.words}
                value={question.value}
                options={question.answers.map(({ value, words }) => [value, words] as const)}
                onChange={(value) => school.mutate({ ...own, [question.key]: value })}
              />
              <p className="text-sm text-quiet">
                {answer?.why} {question.chosen ? `(${CHOSEN_WORDS[question.chosen]})` : "(usual at this level)"}
                {question.chosen === "study" ? (
                  <Button
                    look="quiet"
                    className="ml-2"
                    onClick={() =>
                      school.mutate(Object.fromEntries(Object.entries(own).filter(([key]) => key !== question.key)))
                    }
                  >
                    As usual
                  </Button>
                ) : null}
              </p>
            </div>
          );
        })}
      </div>
      {school.error ? <Problem error={school.error} /> : null}
    </Sheet>
  );
}
