/**
 * A ladder with a change of the teacher's, as it will be, shown while the server makes it: the changes whose outcome
 * is plain from the list itself. Of the others (another place, other hands, one split, added or left out) the ladder is
 * built anew, which the server alone can.
 */
import type { Study } from "../api/client";

export type Edit = { kind: string } & Record<string, string | number | null>;

/** Rungs stand from the floor up; ``above``: the key of the one below it then, null on the floor. */
export function editedLadder(study: Study, edit: Edit): Study | null {
  if (edit.kind !== "move") return null;
  const moving = study.rungs.find((one) => one.key === edit.rung);
  const others = study.rungs.filter((one) => one !== moving);
  const below = others.findIndex((one) => one.key === edit.above);
  if (!moving || (edit.above !== null && below < 0)) return null;
  return { ...study, edits: study.edits + 1, rungs: others.toSpliced(below + 1, 0, { ...moving, is_own: true }) };
}
