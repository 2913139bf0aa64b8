import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Route, Routes, useLocation } from "react-router";

import type { Schemas } from "../../api/client";
import { draw, serve } from "../../testing/draw";
import { answers, piece } from "../../testing/fixtures";
import { Tonight } from "./Tonight";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

const thing: Schemas["ThingPublic"] = {
  study_id: 4,
  piece_id: piece.id,
  passage: "",
  piece: piece.title,
  rung: "join:1-2:both",
  stage: "join",
  words: "Together",
  title: "Bars 1–2",
  task: "Both hands in time, very slowly.",
  touch: "drop from the wrist",
  done: "Both hands play slowly, at one pace.",
  hands: "both",
  first: 0,
  last: 1,
  measures: "1-2",
  rounds: 4,
  bpm: 52,
  beat_quarters: "1",
  minutes: 2,
  clean: [true, false],
  is_played: true,
};
const shown: Schemas["TonightPublic"] = {
  student_id: 3,
  student: "Aila",
  things: [thing, { ...thing, study_id: 5, rung: "hear:1-8:both", words: "Hear it", measures: null, minutes: 1 }],
  minutes: 3,
  going: 2,
  practised_today: true,
};

const open = (tonight: Schemas["TonightPublic"], at = "/students/3/tonight") => {
  serve({ ...answers, "GET /api/students/3/tonight": tonight });
  const Where = () => <p data-testid="where">{useLocation().pathname + useLocation().search}</p>;
  draw(
    <Routes>
      <Route path="/students/:studentId/tonight" element={<Tonight />} />
      <Route path="*" element={<Where />} />
    </Routes>,
    { at },
  );
};

describe("A student’s page for tonight", () => {
  it("has one thing large, the others in a line, and begins with one press", async () => {
    open(shown);
    await screen.findByRole("heading", { name: "Tonight: 3 minutes" });
    expect(screen.getByRole("heading", { name: "Together, bars 1 and 2" })).toBeTruthy();
    expect(screen.getByText("“drop from the wrist”")).toBeTruthy();
    expect(screen.getByText("1 of the last tries were clean")).toBeTruthy();
    expect(screen.queryByText(/%/)).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Begin" }));
    const at = new URL(`http://x${screen.getByTestId("where").textContent}`);
    expect(at.pathname).toBe(`/pieces/${piece.id}`);
    expect(Object.fromEntries(at.searchParams)).toEqual({
      student: "3",
      view: "practise",
      rung: "join:1-2:both",
      tonight: "",
      begin: "",
    });
  });

  it("makes another thing the large one", async () => {
    open(shown);
    fireEvent.click(await screen.findByRole("button", { name: /Hear it, the whole piece/ }));
    expect(screen.getByRole("heading", { name: "Hear it, the whole piece" })).toBeTruthy();
    expect(screen.getByText("2 of 2 · 1 minute")).toBeTruthy();
  });

  it("tells a parent how long, what, and by what one hears that it is done", async () => {
    open(shown, "/students/3/tonight?for=parent");
    await screen.findByRole("heading", { name: "3 minutes tonight" });
    expect(screen.getByText(/Two things\..*Aila has played today already/)).toBeTruthy();
    expect(screen.getAllByText(/Both hands play slowly, at one pace/)).toHaveLength(2);
  });

  it.each([
    [0, "Nothing yet"],
    [2, "Enough for today"],
  ])("says so where there is nothing to do (%i on the go)", async (going, words) => {
    open({ ...shown, things: [], minutes: 0, going });
    await screen.findByRole("heading", { name: words });
    expect(screen.queryByRole("button", { name: "Begin" })).toBeNull();
  });
});
