import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Rung } from "../../api/client";
import { draw, serve } from "../../testing/draw";
import { answers, piece, study } from "../../testing/fixtures";
import { EditRung } from "./EditRung";
import { LadderView } from "./LadderView";
import { PieceStrip } from "./PieceStrip";
import { SchoolSheet } from "./SchoolSheet";

const rungOf = (stage: Rung["stage"], part: Partial<Rung> = {}): Rung => {
  const found = study.rungs.find((rung) => rung.stage === stage);
  if (!found) throw new Error(`the fixture has no rung ${stage}`);
  return { ...found, ...part };
};

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("the ladder", () => {
  const show = (rungs: Rung[], here: Rung) => {
    const [onRung, onFree] = [vi.fn(), vi.fn()];
    const today = rungs.slice(1, 3).map((one) => one.key);
    draw(<LadderView study={{ ...study, rungs, today }} rung={here} free={null} onRung={onRung} onFree={onFree} />);
    return { onRung, onFree };
  };

  it("says of each rung where it stands, and leads to it", () => {
    const [heard, lapped] = [rungOf("hear", { state: "passed" }), rungOf("lap", { state: "begun" })];
    const { onRung, onFree } = show([heard, lapped, rungOf("join")], lapped);
    expect(screen.getByRole("button", { name: /Hear it.*passed/ })).toBeTruthy();
    expect(screen.getByRole("button", { current: "step" }).textContent).toContain("Lap it");
    fireEvent.click(screen.getByRole("button", { name: /Together 1, for today.*not begun/ }));
    expect(onRung).toHaveBeenCalledWith(rungOf("join").key);
    fireEvent.click(screen.getByRole("button", { name: "At the keys" }));
    expect(onFree).toHaveBeenCalledWith("play");
  });

  it("shows one line at a time, each with how far it is", () => {
    const [first, second] = [
      rungOf("hear", { state: "passed" }),
      rungOf("lap", { key: "lap:5-8:both", group: "line 2" }),
    ];
    show([first, second], first);
    expect(screen.getByRole("button", { name: /line 1.*1 of 1/i }).getAttribute("aria-expanded")).toBe("true");
    expect(screen.queryByRole("button", { name: /Lap it/ })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: /line 2/i }));
    expect(screen.getByRole("button", { name: /Lap it/ })).toBeTruthy();
  });
});

describe("what is no longer on the ladder", () => {
  it("is kept and told", () => {
    const gone = { key: "lap:1-4:both", words: "Lap it, bars 1-4", tries: 2, is_passed: true };
    draw(
      <LadderView
        study={{ ...study, out_of_date: [gone] }}
        rung={null}
        free={null}
        onRung={vi.fn()}
        onFree={vi.fn()}
      />,
    );
    expect(screen.getByText("Lap it, bars 1-4: 2 tries, passed")).toBeTruthy();
  });
});

describe("the whole piece", () => {
  it("says of each bar how far it is, and that what recurs is known", () => {
    const onBar = vi.fn();
    const bars = study.bars.map((bar, index) =>
      index === 2 ? { state: "known" as const, elsewhere: true } : { ...bar, state: "begun" as const },
    );
    draw(<PieceStrip ruler={piece.ruler} bars={bars} here={{ from: 0, to: 1 }} onBar={onBar} />);
    expect(screen.getByRole("button", { name: "bar 1: begun" }).getAttribute("aria-pressed")).toBe("true");
    fireEvent.click(screen.getByRole("button", { name: "bar 3: known with both hands, you already know it" }));
    expect(onBar).toHaveBeenCalledWith(2, false);
    expect(screen.getByText(/you already know it: the same was learnt/)).toBeTruthy();
  });
});

describe("the teacher's hand in it", () => {
  const EDITS = `POST /api/studies/${study.id}/edits`;
  let asked: string[] = [];
  const show = () => {
    const onRung = vi.fn();
    const lap = rungOf("lap");
    draw(<EditRung piece={piece} study={study} rung={lap} open onClose={() => undefined} onRung={onRung} />);
    return { onRung, lap };
  };
  beforeEach(() => {
    const without = { ...study, rungs: study.rungs.filter((one) => one.stage !== "lap"), now: "hear:1-4:both" };
    asked = serve({ ...answers, [EDITS]: without }).asked;
  });

  it("leaves a rung out, and goes to the one that is next", async () => {
    const { onRung, lap } = show();
    fireEvent.click(screen.getByRole("button", { name: "Leave it out" }));
    const edit = { version: study.edits_version, edit: { kind: "drop", rung: lap.key } };
    await waitFor(() => expect(asked).toEqual([`${EDITS} ${JSON.stringify(edit)}`]));
    await waitFor(() => expect(onRung).toHaveBeenCalledWith("hear:1-4:both"));
  });

  it("moves it, splits it, and says a touch", async () => {
    const { lap } = show();
    fireEvent.click(screen.getByRole("button", { name: "Split in two" }));
    const keep = screen.getByRole<HTMLButtonElement>("button", { name: "Keep" });
    await waitFor(() => expect(asked.length === 1 && !keep.disabled).toBe(true));
    fireEvent.change(screen.getByRole("textbox", { name: "Touch" }), { target: { value: "lift and hang" } });
    fireEvent.click(keep);
    await waitFor(() => expect(asked).toHaveLength(2));
    expect(asked[0]).toContain(JSON.stringify({ kind: "split", rung: lap.key, at: "3" }));
    expect(asked[1]).toContain(JSON.stringify({ kind: "touch", rung: lap.key, text: "lift and hang" }));
  });
});

describe("how it is taught", () => {
  it("gives every answer its reason, and says who chose it", () => {
    draw(<SchoolSheet study={study} open onClose={() => undefined} />);
    for (const question of study.school) expect(screen.getByText(question.words)).toBeTruthy();
    expect(screen.getByText(/Students stop at bar lines: every one is inside. \(usual at this level\)/)).toBeTruthy();
  });
});
