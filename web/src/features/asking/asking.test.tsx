import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Question } from "../../api/client";
import { draw, serve } from "../../testing/draw";
import { answers, piece } from "../../testing/fixtures";
import { AskView } from "./AskView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

const at = `/api/pieces/${piece.id}`;
const question: Question = {
  kind: "same-bars",
  key: "3",
  measure: "3",
  text: "Which bars are the same as bar 3?",
  options: ["1", "2", "4"],
  many: true,
  notes: [],
};
const single: Question = { ...question, kind: "names", key: "n5", text: "What is this note called?", many: false };

const show = (asked: Question, told: object) => {
  const server = serve({
    ...answers,
    [`GET ${at}/notation`]: { shares: [0.2], items: [[]], first: 0, rows: [{ svg: "<svg></svg>" }] },
    [`GET ${at}/questions/same-bars`]: [asked, { ...asked, key: "4", text: "And as bar 4?" }],
    [`GET ${at}/questions/names`]: [asked],
    [`POST ${at}/questions/same-bars/answers`]: told,
    [`POST ${at}/questions/names/answers`]: told,
  });
  draw(<AskView piece={piece} />);
  return server;
};

describe("questions to the student", () => {
  it("offers what this piece gives to ask about, with what was answered so far", async () => {
    show(question, {});
    const kinds = within(await screen.findByRole("navigation", { name: "What to ask about" }));
    expect(kinds.getAllByRole("button").map((one) => one.firstChild?.textContent)).toContain("Names of notes");
    expect(kinds.getAllByText("not asked yet").length).toBeGreaterThan(1);
  });

  it("tells nothing before it is answered, takes several answers at once, and goes on", async () => {
    const { asked } = show(question, { is_right: true, answer: ["1", "4"], said: "bars 1 and 4" });
    const card = within(await screen.findByRole("region", { name: "The question" }));
    expect(card.queryByText(/Right|Not yet/)).toBeNull();
    const done = card.getByRole("button", { name: "That is my answer" });
    expect((done as HTMLButtonElement).disabled).toBe(true);
    for (const option of ["1", "2", "4", "2"]) fireEvent.click(card.getByRole("button", { name: option }));
    fireEvent.click(done);
    expect(await screen.findByText(/Right: bars 1 and 4\./)).toBeTruthy();
    const sent = `POST ${at}/questions/same-bars/answers ${JSON.stringify({ key: "3", given: ["1", "4"] })}`;
    expect(asked).toContain(sent);
    fireEvent.click(screen.getByRole("button", { name: "Next question" }));
    expect(await screen.findByText("And as bar 4?")).toBeTruthy();
  });

  it("sends a single answer at once, says what it is, and lets nobody change it afterwards", async () => {
    const { asked } = show(single, { is_right: false, answer: ["2"], said: "2" });
    fireEvent.click(await screen.findByRole("button", { name: /Names of notes/ }));
    const card = within(await screen.findByRole("region", { name: "The question" }));
    fireEvent.click(await card.findByRole("button", { name: "4" }));
    expect(await screen.findByText(/Not yet: it is 2\./)).toBeTruthy();
    fireEvent.click(card.getByRole("button", { name: "2" }));
    await waitFor(() => expect(asked.filter((one) => one.startsWith("POST"))).toHaveLength(1));
  });

  it("says that there is nothing to ask", async () => {
    serve({ [`GET ${at}/questions`]: [] });
    draw(<AskView piece={piece} />);
    expect(await screen.findByText("There is nothing to ask about this piece.")).toBeTruthy();
  });
});
