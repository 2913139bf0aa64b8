import { describe, expect, it } from "vitest";

import type { Rung, Study } from "../api/client";
import { editedLadder } from "./editedLadder";

const rung = (key: string) => ({ key, is_own: false }) as Rung;
const study = { edits: 2, rungs: ["hear", "right", "left", "join"].map(rung) } as Study;
const keysOf = (changed: Study | null) => changed?.rungs.map((one) => one.key);

describe("A ladder with a change, before the server has made it", () => {
  it("has a moved rung above the one that is named, on the floor without one", () => {
    const higher = editedLadder(study, { kind: "move", rung: "right", above: "left" });
    expect(keysOf(higher)).toEqual(["hear", "left", "right", "join"]);
    expect(higher?.edits).toBe(3);
    expect(higher?.rungs.find((one) => one.key === "right")?.is_own).toBe(true);
    expect(keysOf(editedLadder(study, { kind: "move", rung: "join", above: null }))).toEqual([
      "join",
      "hear",
      "right",
      "left",
    ]);
    expect(keysOf(study)).toEqual(["hear", "right", "left", "join"]);
  });

  it("is not guessed where a rung is gone, or the ladder is built anew", () => {
    expect(editedLadder(study, { kind: "move", rung: "lap", above: "left" })).toBeNull();
    expect(editedLadder(study, { kind: "move", rung: "left", above: "lap" })).toBeNull();
    expect(editedLadder(study, { kind: "split", rung: "join", at: "3" })).toBeNull();
  });
});
