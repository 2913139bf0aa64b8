/**
 * A ladder with a change of the teacher's, as it will be, shown while the server makes it: the changes whose outcome
 * is plain from the list itself. Of the others (another place, other hands, one added) the ladder is built anew, which
 * the server alone can.
 */
import type { Rung, Study } from "../api/client";

export type Edit = { kind: string } & Record<string, string | number | null>;

/** What of the list stands where the changed rung stood; null where that is not plain. */
type Changing = (study: Study, edit: Edit, bars: readonly string[]) => Rung[] | null;

const without = (study: Study, gone: Rung | undefined) => study.rungs.filter((one) => one !== gone);

/** Rungs stand from the floor up; ``above``: the key of the one below it then, null on the floor. */
const move: Changing = (study, edit) => {
  const moving = study.rungs.find((one) => one.key === edit.rung);
  const others = without(study, moving);
  const below = others.findIndex((one) => one.key === edit.above);
  if (!moving || (edit.above !== null && below < 0)) return null;
  return others.toSpliced(below + 1, 0, { ...moving, is_own: true });
};

const drop: Changing = (study, edit) => {
  const gone = study.rungs.find((one) => one.key === edit.rung);
  return gone && study.rungs.length > 1 ? without(study, gone) : null;
};

/** As the server names rungs: by what is done, which bars, which hands. */
const keyOf = (of: Rung, first: string, last: string) => `${of.stage}:${first}-${last}:${of.hands}`;

/** Its halves stand below it, but for one that is on the ladder already. ``at``: the bar with which the second begins. */
const split: Changing = (study, edit, bars) => {
  const at = study.rungs.findIndex((one) => one.key === edit.rung);
  const whole = study.rungs[at];
  const middle = bars.indexOf(String(edit.at));
  if (!whole || middle <= whole.first || middle > whole.last) return null;
  // A way of joining or a spot is named otherwise, and so are bars with spaces in their names.
  if (whole.key !== keyOf(whole, bars[whole.first] ?? "", bars[whole.last] ?? "")) return null;
  const half = (first: number, last: number): Rung => {
    const [from = "", to = ""] = [bars[first], bars[last]];
    return {
      ...whole,
      key: keyOf(whole, from, to),
      title: first === last ? `Bar ${from}` : `Bars ${from}–${to}`,
      first,
      last,
      measures: first === last ? from : `${from}-${to}`,
      state: "untouched",
      clean: [],
      tries_today: 0,
      is_enough: false,
      passed_by: null,
      passed_why: "",
      is_own: true,
    };
  };
  const known = new Set(study.rungs.map((one) => one.key));
  const made = [half(whole.first, middle - 1), half(middle, whole.last)].filter((one) => !known.has(one.key));
  return study.rungs.toSpliced(at, 0, ...made);
};

const CHANGING: Partial<Record<string, Changing>> = { move, drop, split };

/** ``bars``: those of the piece, by name. */
export function editedLadder(study: Study, edit: Edit, bars: readonly string[]): Study | null {
  const rungs = CHANGING[edit.kind]?.(study, edit, bars) ?? null;
  if (!rungs) return null;
  const keys = new Set(rungs.map((one) => one.key));
  const now = study.now === null || keys.has(study.now) ? study.now : (rungs.find(isOpen)?.key ?? null);
  return { ...study, edits: study.edits + 1, rungs, now, today: study.today.filter((key) => keys.has(key)) };
}

const isOpen = (rung: Rung) => rung.state !== "passed";
