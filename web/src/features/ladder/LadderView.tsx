/** The ladder: rungs from the floor up, one line of the piece open at a time; the rungs for today stand out. */
import { memo, useCallback, useEffect, useRef, useState } from "react";

import type { Activity, Rung, Study } from "../../api/client";
import { activities } from "../../api/trade";
import { count } from "../../lib/words";
import { STATE_SHAPES } from "../../lib/words";

type Props = {
  study: Study;
  rung: Rung | null;
  free: Activity | null;
  onRung: (key: string) => void;
  onFree: (activity: Activity) => void;
};

type Group = { name: string; rungs: Rung[] };

/** Neighbouring rungs of one group. */
export function groupsOf(rungs: readonly Rung[]): Group[] {
  const groups: Group[] = [];
  for (const rung of rungs) {
    const last = groups.at(-1);
    if (last?.name === rung.group) last.rungs.push(rung);
    else groups.push({ name: rung.group, rungs: [rung] });
  }
  return groups;
}

export function LadderView({ study, rung, free, onRung, onFree }: Props) {
  const groups = groupsOf(study.rungs);
  const here = groups.findIndex((group) => group.rungs.some((one) => one.key === rung?.key));
  const [opened, setOpened] = useState<{ at: string | undefined; group: number } | null>(null);
  const open = opened?.at === rung?.key ? (opened?.group ?? here) : here;
  // A long piece has a hundred groups, of which an edit changes one: the others are not drawn again for it.
  const latest = useRef({ at: rung?.key, open });
  useEffect(() => {
    latest.current = { at: rung?.key, open };
  });
  const onOpen = useCallback(
    (group: number) => setOpened({ at: latest.current.at, group: group === latest.current.open ? -1 : group }),
    [],
  );
  return (
    <nav aria-label="Ladder" data-screen-only="">
      <ol className="flex flex-col-reverse">
        {groups.map((group, index) => (
          <li key={`${group.name} ${index}`} className="md:border-l-2 md:border-ink md:pl-3">
            <GroupHead
              name={group.name}
              index={index}
              passed={group.rungs.filter((one) => one.state === "passed").length}
              rungs={group.rungs.length}
              isOpen={index === open}
              onOpen={onOpen}
            />
            {index === open ? (
              <ol className="flex flex-col-reverse" aria-label={group.name}>
                {group.rungs.map((one) => (
                  <Step
                    key={one.key}
                    rung={one}
                    isHere={one.key === rung?.key}
                    isToday={study.today.includes(one.key)}
                    onChoose={() => onRung(one.key)}
                  />
                ))}
              </ol>
            ) : null}
          </li>
        ))}
      </ol>
      <p aria-hidden className="hidden border-t-4 border-ink md:block" />
      <OutOfDate study={study} />
      <Freely free={free} onFree={onFree} />
    </nav>
  );
}

type HeadProps = {
  name: string;
  index: number;
  passed: number;
  rungs: number;
  isOpen: boolean;
  onOpen: (index: number) => void;
};

const GroupHead = memo(function GroupHead({ name, index, passed, rungs, isOpen, onOpen }: HeadProps) {
  const isDone = passed === rungs;
  return (
    <button
      type="button"
      aria-expanded={isOpen}
      onClick={() => onOpen(index)}
      className="flex min-h-10 w-full items-center gap-2 rounded-lg px-2 text-left font-bold hover:bg-here pointer-coarse:min-h-11"
    >
      <span aria-hidden>{isDone ? "●" : passed ? "◐" : "○"}</span>
      <span className="first-letter:uppercase">{name}</span>
      <span className="ml-auto text-sm font-normal whitespace-nowrap text-quiet">
        {passed} of {rungs}
      </span>
    </button>
  );
});

/** What was practised at rungs that are no longer on the ladder: kept, and counted again where they come back. */
function OutOfDate({ study }: { study: Study }) {
  if (!study.out_of_date.length) return null;
  return (
    <details className="mt-3 px-2 text-sm">
      <summary className="min-h-8 cursor-pointer py-1">Practised before, no longer on the ladder</summary>
      <ul>
        {study.out_of_date.map((one) => (
          <li key={one.key} className="text-quiet">
            {one.words}: {count(one.tries, "try", "tries")}
            {one.is_passed ? ", passed" : ""}
          </li>
        ))}
      </ul>
    </details>
  );
}

type StepProps = { rung: Rung; isHere: boolean; isToday: boolean; onChoose: () => void };

function Step({ rung, isHere, isToday, onChoose }: StepProps) {
  return (
    <li>
      <button
        type="button"
        aria-current={isHere ? "step" : undefined}
        onClick={onChoose}
        className={[
          "flex min-h-9 w-full items-baseline gap-2 rounded-lg py-1 pr-2 pl-4 text-left pointer-coarse:min-h-11",
          isHere ? "bg-card shadow-[inset_0_0_0_2px_var(--color-ink)]" : "hover:bg-here",
          isToday || isHere ? "" : "text-quiet",
        ].join(" ")}
      >
        <span className="min-w-0 flex-1">
          <span className={isToday || isHere ? "font-semibold" : ""}>{rung.stage_words}</span>{" "}
          <span className="text-sm">{shortPlace(rung)}</span>
          {isToday ? <span className="sr-only">, for today</span> : null}
        </span>
        <span aria-hidden>{STATE_SHAPES[rung.state]}</span>
        <span className="sr-only">{rung.state === "untouched" ? "not begun" : rung.state}</span>
      </button>
    </li>
  );
}

/** ``1–2``, where it is not what the stage is of as a whole. */
const shortPlace = (rung: Rung): string =>
  rung.stage === "join" || rung.stage === "seams" || rung.is_own
    ? rung.title.replace(/^Bars? /, "")
    : rung.stage === "finish"
      ? rung.title.toLowerCase()
      : "";

function Freely({ free, onFree }: { free: Activity | null; onFree: (activity: Activity) => void }) {
  return (
    <div className="mt-3" role="group" aria-label="Freely">
      <p className="px-2 text-sm text-quiet">Freely, any bars</p>
      <div className="flex flex-wrap md:flex-col">
        {activities().map(({ key, title }) => (
          <button
            key={key}
            type="button"
            aria-pressed={free === key}
            onClick={() => onFree(key)}
            className={[
              "min-h-9 rounded-lg px-2 text-left pointer-coarse:min-h-11",
              free === key
                ? "bg-card font-semibold shadow-[inset_0_0_0_2px_var(--color-ink)]"
                : "text-quiet hover:bg-here",
            ].join(" ")}
          >
            {title}
          </button>
        ))}
      </div>
    </div>
  );
}
