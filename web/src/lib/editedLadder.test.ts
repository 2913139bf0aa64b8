// @vitest-environment node
import { describe, expect, it } from "vitest";

import type { Rung, Study } from "../api/client";
import { editedLadder } from "./editedLadder";

const rung = (key: string) => ({ key, is_own: false, state: key === "hear" ? "passed" : "untouched" }) as Rung;
const study = {
  edits: 2,
  rungs: ["hear", "right", "left", "join"].map(rung),
  now: "right",
  today: ["right", "left"],
} as Study;
const bars = ["1", "2", "3", "4"];
const keysOf = (changed: Study | null) => changed?.rungs.map((one) => one.key);

describe("A ladder with a change, before the server has made it", () => {
  it("has a moved rung above the one that is named, on the floor without one", () => {
    const higher = editedLadder(study, { kind: "move", rung: "right", above: "left" }, bars);
    expect(keysOf(higher)).toEqual(["hear", "left", "right", "join"]);
    expect(higher?.edits).toBe(3);
    expect(higher?.rungs.find((one) => one.key === "right")?.is_own).toBe(true);
    expect(keysOf(editedLadder(study, { kind: "move", rung: "join", above: null }, bars))).toEqual([
      "join",
      "hear",
      "right",
      "left",
    ]);
    expect(keysOf(study)).toEqual(["hear", "right", "left", "join"]);
  });

  it("is not guessed where a rung is gone, or the ladder is built anew", () => {
    expect(editedLadder(study, { kind: "move", rung: "lap", above: "left" }, bars)).toBeNull();
    expect(editedLadder(study, { kind: "move", rung: "left", above: "lap" }, bars)).toBeNull();
    expect(editedLadder(study, { kind: "split", rung: "join", at: "3" }, bars)).toBeNull();
  });

  it("is without one that is left out, and what is next is the lowest that is open", () => {
    const less = editedLadder(study, { kind: "drop", rung: "right" }, bars);
    expect(keysOf(less)).toEqual(["hear", "left", "join"]);
    expect([less?.now, less?.today]).toEqual(["left", ["left"]]);
    expect(editedLadder({ ...study, rungs: [rung("join")] }, { kind: "drop", rung: "join" }, bars)).toBeNull();
  });

  it("has the halves of one that is split below it, but none twice", () => {
    const whole = { ...rung("join:1-4:both"), stage: "join", hands: "both", first: 0, last: 3 } as Rung;
    const known = { ...rung("join:3-4:both"), stage: "join", hands: "both", first: 2, last: 3 } as Rung;
    const at = (of: Study, bar: string) =>
      editedLadder(of, { kind: "split", rung: whole.key, at: bar }, bars)?.rungs.map((one) => [one.key, one.title]);
    const alone = { ...study, rungs: [whole] };
    expect(at(alone, "3")?.slice(0, 2)).toEqual([
      ["join:1-2:both", "Bars 1–2"],
      ["join:3-4:both", "Bars 3–4"],
    ]);
    expect(at(alone, "2")?.[0]).toEqual(["join:1-1:both", "Bar 1"]);
    expect(at({ ...study, rungs: [known, whole] }, "3")?.map(([key]) => key)).toEqual([
      "join:3-4:both",
      "join:1-2:both",
      "join:1-4:both",
    ]);
    expect(at(alone, "1")).toBeUndefined();
    const spot = { ...whole, key: "join:1-4@1/2..1:both" };
    expect(editedLadder({ ...study, rungs: [spot] }, { kind: "split", rung: spot.key, at: "3" }, bars)).toBeNull();
  });

  it("has another tempo, gate or touch at once", () => {
    const one = { ...rung("lap:1-4:both"), tempos: [52, 60, 72], bpm: 52, gate: { kind: "word", words: "" } } as Rung;
    const of = { ...study, rungs: [one] };
    const after = (edit: Record<string, string | number>) =>
      editedLadder(of, { kind: "", rung: one.key, ...edit } as never, bars)?.rungs[0];
    expect(after({ kind: "tempo", bpm: 63 })).toMatchObject({ tempos: [63, 72], bpm: 63, is_own: true });
    expect(after({ kind: "gate", gate: "two-days" })?.gate).toEqual({ kind: "two-days", words: "clean on two days" });
    expect(after({ kind: "touch", text: " drop " })?.touch).toBe("drop");
    expect(after({ kind: "touch", text: " " })?.touch).toBeNull();
    expect(after({ kind: "gate", gate: "by-luck" })).toBeUndefined();
  });

  it("has other bars or hands in its place, and one more above it, where the list tells how these are called", () => {
    const of = (stage: string, hands: string, first = 0, last = 3) =>
      ({
        ...rung(`${stage}:${first + 1}-${last + 1}:${hands}`),
        ...{ stage, hands, first, last, stage_words: stage, tempos: [52], group: "line 1" },
      }) as Rung;
    const [right, join] = [of("right", "right"), of("join", "both")];
    const ladder = { ...study, rungs: [right, join] };
    const keys = (edit: Record<string, string | null>) => keysOf(editedLadder(ladder, edit as never, bars));
    expect(keys({ kind: "bars", rung: join.key, first: "2", last: "3" })).toEqual([right.key, "join:2-3:both"]);
    expect(keys({ kind: "bars", rung: join.key, first: "1", last: "4" })).toBeUndefined();
    expect(keys({ kind: "hands", rung: join.key, hands: "right" })).toBeUndefined(); // it is there already
    expect(keys({ kind: "hands", rung: join.key, hands: "left" })).toBeUndefined(); // no left hand to be called by
    const more = { kind: "add", stage: "join", hands: "both", first: "2", last: "2", above: right.key };
    expect(keys(more)).toEqual([right.key, "join:2-2:both", join.key]);
    expect(keys({ ...more, way: "mime" })).toBeUndefined();
    expect(keys({ ...more, stage: "lap" })).toBeUndefined();
  });
});
