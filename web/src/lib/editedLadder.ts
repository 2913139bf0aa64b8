/**
 * A ladder with a change of the teacher's, as it will be, shown while the server makes it: the changes whose outcome
 * is plain from the list itself. Of the others (a spot, a way of joining, what is called as nothing here is) the ladder
 * is built anew, which the server alone can.
 */
import type { Rung, Study } from "../api/client";

export type Edit = { kind: string } & Record<string, string | number | null>;

/** What passes a rung, as it is said. */
export const GATES = [
  ["word", "when you say so"],
  ["one-clean", "one clean take"],
  ["two-of-three", "two clean of the last three"],
  ["two-days", "clean on two days"],
] as const;

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

/** A way of joining or a spot is named otherwise, and so are bars with spaces in their names. */
const isPlain = (rung: Rung, bars: readonly string[]) =>
  rung.key === keyOf(rung, bars[rung.first] ?? "", bars[rung.last] ?? "");

/** Its halves stand below it, but for one that is on the ladder already. ``at``: the bar with which the second begins. */
const split: Changing = (study, edit, bars) => {
  const at = study.rungs.findIndex((one) => one.key === edit.rung);
  const whole = study.rungs[at];
  const middle = bars.indexOf(String(edit.at));
  if (!whole || middle <= whole.first || middle > whole.last) return null;
  if (!isPlain(whole, bars)) return null;
  const known = new Set(study.rungs.map((one) => one.key));
  const halves = [over(whole, bars, whole.first, middle - 1), over(whole, bars, middle, whole.last)];
  return study.rungs.toSpliced(at, 0, ...halves.filter((one) => !known.has(one.key)));
};

/** The same over other bars: another rung, of which nothing was tried yet. */
function over(like: Rung, bars: readonly string[], first: number, last: number): Rung {
  const [from = "", to = ""] = [bars[first], bars[last]];
  const isAll = first === 0 && last === bars.length - 1;
  return {
    ...like,
    key: keyOf(like, from, to),
    title: first === last ? `Bar ${from}` : `Bars ${from}–${to}`,
    first,
    last,
    measures: isAll ? null : first === last ? from : `${from}-${to}`,
    within: null,
    state: "untouched",
    clean: [],
    tries_today: 0,
    is_enough: false,
    passed_by: null,
    passed_why: "",
    is_own: true,
  };
}

/** One rung with some of it changed. */
const changed = (study: Study, key: unknown, parts: (rung: Rung) => Partial<Rung>): Rung[] | null =>
  study.rungs.some((one) => one.key === key)
    ? study.rungs.map((one) => (one.key === key ? { ...one, ...parts(one), is_own: true } : one))
    : null;

const tempo: Changing = (study, edit) =>
  changed(study, edit.rung, (rung) => {
    const bpm = Number(edit.bpm);
    const tempos = [bpm, ...rung.tempos.slice(1).filter((one) => one > bpm)];
    return rung.state === "untouched" ? { tempos, bpm } : { tempos };
  });

const gate: Changing = (study, edit) => {
  const words = GATES.find(([kind]) => kind === edit.gate);
  return words ? changed(study, edit.rung, () => ({ gate: { kind: words[0], words: words[1] } })) : null;
};

const touch: Changing = (study, edit) => changed(study, edit.rung, () => ({ touch: String(edit.text).trim() || null }));

/** In another one's place, unless it stands on the ladder already. */
const inPlace = (study: Study, of: Rung, other: Rung): Rung[] | null =>
  study.rungs.some((one) => one.key === other.key) ? null : study.rungs.map((one) => (one === of ? other : one));

const otherBars: Changing = (study, edit, bars) => {
  const rung = study.rungs.find((one) => one.key === edit.rung);
  const [first, last] = [bars.indexOf(String(edit.first)), bars.indexOf(String(edit.last))];
  if (!rung || first < 0 || last < first || !isPlain(rung, bars)) return null;
  return inPlace(study, rung, over(rung, bars, first, last));
};

const STAGE_OF = { right: "right", left: "left", both: "join" } as const;

const otherHands: Changing = (study, edit, bars) => {
  const rung = study.rungs.find((one) => one.key === edit.rung);
  if (!rung || !isPlain(rung, bars)) return null;
  const hands = edit.hands as Rung["hands"];
  const isPlayed = rung.stage === "right" || rung.stage === "left" || rung.stage === "join";
  const like = isPlayed ? study.rungs.find((one) => one.stage === STAGE_OF[hands]) : rung;
  if (!like) return null; // how it is called there is not known here
  const { stage, stage_words, task } = like;
  return inPlace(study, rung, over({ ...rung, stage, stage_words, task, hands }, bars, rung.first, rung.last));
};

const add: Changing = (study, edit, bars) => {
  const at = study.rungs.findIndex((one) => one.key === edit.above);
  const [below, like] = [study.rungs[at], study.rungs.find((one) => one.stage === edit.stage && isPlain(one, bars))];
  const [first, last] = [bars.indexOf(String(edit.first)), bars.indexOf(String(edit.last))];
  if (!below || !like || edit.way || edit.within || first < 0 || last < first) return null;
  const tempos = below.tempos.slice(0, 1);
  const parts = { hands: edit.hands as Rung["hands"], group: below.group, tempos, bpm: tempos[0] ?? like.bpm };
  const made = over({ ...like, ...parts, touch: null }, bars, first, last);
  return study.rungs.some((one) => one.key === made.key) ? null : study.rungs.toSpliced(at + 1, 0, made);
};

const CHANGING: Partial<Record<string, Changing>> = {
  move,
  drop,
  split,
  add,
  tempo,
  gate,
  touch,
  bars: otherBars,
  hands: otherHands,
};

/** ``bars``: those of the piece, by name. */
export function editedLadder(study: Study, edit: Edit, bars: readonly string[]): Study | null {
  const rungs = CHANGING[edit.kind]?.(study, edit, bars) ?? null;
  if (!rungs) return null;
  const keys = new Set(rungs.map((one) => one.key));
  const now = study.now === null || keys.has(study.now) ? study.now : (rungs.find(isOpen)?.key ?? null);
  return { ...study, edits: study.edits + 1, rungs, now, today: study.today.filter((key) => keys.has(key)) };
}

const isOpen = (rung: Rung) => rung.state !== "passed";
