import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Schemas, Take } from "../../api/client";
import { draw, serve } from "../../testing/draw";
import { piece, take } from "../../testing/fixtures";
import { TakeList } from "./TakeList";
import { TakePage } from "./TakePage";
import { heardMarks, marksOf, pinsOf } from "./marks";

const checked = take.document;
const verdict = take.verdict;
if (!checked || !verdict) throw new Error("the fixture is a judged take");

const at = `/pieces/${piece.id}/takes/${take.id}`;
const answers = (shown: Partial<Take> = {}) => ({
  [`GET /api/pieces/${piece.id}`]: piece,
  [`GET /api/takes/${take.id}`]: { ...take, ...shown },
  [`GET /api/pieces/${piece.id}/listenings`]: [],
});
const page = (shown: Partial<Take> = {}, more: Record<string, unknown> = {}) => {
  const server = serve({ ...answers(shown), ...more });
  draw(<TakePage />, { path: "/pieces/:pieceId/takes/:takeId", at });
  return server;
};
const saved = (change: Partial<Take>) => ({ ...take, ...change });

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

describe("a judged take", () => {
  it("says what is good, one finding, its place and its cure, and figures a click below", async () => {
    page();
    const said = within(await screen.findByRole("region", { name: "Verdict" }));
    for (const sentence of verdict.good) expect(said.getByText(sentence)).toBeTruthy();
    expect(said.getByText(verdict.finding?.text ?? "")).toBeTruthy();
    expect(said.getByText(verdict.cure?.text ?? "")).toBeTruthy();
    expect(screen.getByText("Figures").closest("details")?.open).toBe(false);
    expect(screen.getByText("matched").parentElement?.textContent).toContain(String(checked.matched));
    expect(screen.getByText("apart (median)").parentElement?.textContent).toContain(
      `${checked.together.median_ms?.toFixed(0)} ms`,
    );
  });

  it("tells no child a percentage", async () => {
    page();
    const said = await screen.findByRole("region", { name: "Verdict" });
    expect(said.textContent).not.toContain("%");
  });

  it("lists its stops with what of the score lies in them", async () => {
    page();
    const more = within(await screen.findByRole("region", { name: /More|Places/ }));
    const [stop] = checked.hesitations;
    expect(stop).toBeDefined();
    expect(more.getAllByText(new RegExp(`before bar ${stop?.measure}`)).length).toBeGreaterThan(0);
  });

  it("keeps a note on this device until the server has it", async () => {
    const { asked } = page({}, { [`PATCH /api/takes/${take.id}`]: saved({ note: "calm" }) });
    const note = await screen.findByLabelText(/^Note/);
    fireEvent.change(note, { target: { value: "calm" } });
    expect(localStorage.getItem(`laptick.note.${take.id}`)).toContain("calm");
    await waitFor(() => expect(asked).toContain(`PATCH /api/takes/${take.id} {"note":"calm"}`), { timeout: 3000 });
  });

  it("takes the teacher's word with a reason, and not without", async () => {
    const { asked } = page({}, { [`PUT /api/takes/${take.id}/overrule`]: take });
    const button = await screen.findByRole("button", { name: "Let it stand beside the figures" });
    expect((button as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("because"), { target: { value: "She was counting aloud." } });
    fireEvent.click(button);
    const sent = () => asked.find((one) => one.startsWith(`PUT /api/takes/${take.id}/overrule`));
    await waitFor(() => expect(sent()).toContain('"reason":"She was counting aloud."'));
  });

  it("shows the teacher's word beside the checker's", async () => {
    page({ overrule: { status: "steady", reason: "I heard it.", created_at: "2026-01-05T16:10:00Z" } });
    expect(await screen.findByText("Your word: steady.")).toBeTruthy();
    expect(screen.getByText(/the checker says/)).toBeTruthy();
  });

  it("by an earlier checker offers to be judged again", async () => {
    page({ checker_is_current: false }, { [`POST /api/takes/${take.id}/judge`]: take });
    expect(await screen.findByRole("button", { name: "Judge it again" })).toBeTruthy();
  });

  it("of another passage can be checked as that", async () => {
    const lost = { ...verdict, status: "could-not-follow" as const, finding: null, good: [], cure: null };
    const other = { ...checked, followed: false, passage: { measures: "5-8", words: "bars 5 to 8" } };
    const { asked } = page({ verdict: lost, document: other }, { [`POST /api/takes/${take.id}/passage`]: take });
    fireEvent.click(await screen.findByRole("button", { name: "Check it as bars 5 to 8" }));
    await waitFor(() => expect(asked).toContain(`POST /api/takes/${take.id}/passage {"measures":"5-8"}`));
  });

  it.each([
    ["slower", 1],
    ["other-passage", 0],
    ["other-piece", 0],
  ])("advised “%s” offers to do that where it can be done", async (code, offered) => {
    const cure = {
      code,
      text: "Try it so.",
      rung: null,
      bpm: null,
      measures: null,
      hands: null,
      within: null,
      density: null,
    };
    page({ verdict: { ...verdict, cure } });
    await screen.findByText("Try it so.");
    expect(screen.queryAllByRole("button", { name: /Do that now/ })).toHaveLength(offered);
  });

  it("shows in the sound's shape where its place was lost", async () => {
    const lost = { ...verdict, status: "could-not-follow" as const, finding: null, good: [], cure: null };
    const audio = {
      seconds: 4,
      sample_rate: 44100,
      noise_db: null,
      level: "good" as const,
      tuning_cents: null,
      click_bpm: null,
      room: null,
      told: 0,
      chances: 0,
      is_recognised: false,
      lost_s: 1,
    };
    const document = { ...checked, source: "audio" as const, followed: false, audio };
    page({ verdict: lost, document, envelope: { step_s: 1, levels: [10, 50, 50, 20] } });
    const shape = await screen.findByRole("img", { name: "The shape of the sound, 0:04 long, lost at 0:01" });
    expect(shape.querySelector<HTMLElement>("div[style]")?.style.left).toBe("25%");
  });
});

describe("a take of which nothing is said", () => {
  const unsaid = { verdict: null, document: null, status: null, checker_version: null, judged_at: null };

  it("waits to be judged", async () => {
    page({ ...unsaid, state: "waiting" });
    expect(await screen.findByText("not judged yet")).toBeTruthy();
    expect(screen.getByText("This take waits to be judged.")).toBeTruthy();
  });

  it("that could not be judged says why, is kept, and can be judged again", async () => {
    const failure = "The checker broke on this take.";
    const { asked } = page({ ...unsaid, state: "failed", failure }, { [`POST /api/takes/${take.id}/judge`]: take });
    expect(await screen.findByText(failure)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Judge it" }));
    await waitFor(() => expect(asked).toContain(`POST /api/takes/${take.id}/judge`));
    expect(await screen.findByText(verdict.finding?.text ?? "")).toBeTruthy();
  });

  it("whose judgement cannot be read says so", async () => {
    page({ document: null });
    expect(await screen.findByText(/cannot be read any more/)).toBeTruthy();
  });
});

describe("the list of takes", () => {
  const short: Schemas["TakeShort"] = {
    id: 3,
    activity: "lap",
    created_at: "2026-01-05T16:00:00Z",
    assigned_bpm: 66,
    median_bpm: 64.4,
    played_by: "student",
    hands: "left",
    measures: "3-5",
    times_round: 1,
    within: null,
    note: "",
    state: "judged",
    failure: null,
    checker_version: "5",
    overruled: null,
    verdict,
    filename: null,
  };
  const list = (takes: Schemas["TakeShort"][]) => {
    serve({ "GET /api/pieces/1/takes": { items: takes, next: null }, "GET /api/pieces/1/listenings": [] });
    draw(
      <TakeList
        student={3}
        pieceId={1}
        asked={{ activity: "lap", bpm: 66, hands: "both", measures: null, times_round: 1 }}
        passageWords="whole piece"
        demo={<p>the demo corner</p>}
      />,
    );
  };

  it("says how each was played, in words", async () => {
    list([short]);
    const line = await screen.findByText(/lap taps/);
    expect(line.textContent).toContain("lap taps, left hand, bars 3–5 · at 64, asked 66");
    expect(screen.getByText(verdict.finding?.text ?? "")).toBeTruthy();
  });

  it("says which file it was heard in, or that it came by the microphone", async () => {
    list([
      { ...short, id: 4, filename: "second-try.m4a" },
      { ...short, id: 5, filename: "microphone" },
    ]);
    expect((await screen.findByText(/second-try/)).textContent).toMatch(/ · second-try\.m4a$/);
    expect(screen.getByText(/by the microphone/)).toBeTruthy();
  });

  it("puts the teacher's word before the checker's", async () => {
    list([{ ...short, overruled: "steady", note: "listen to bar 4" }]);
    expect((await screen.findByText(/by your word/)).textContent).toContain("with a note");
    expect(screen.getByText("steady")).toBeTruthy();
  });

  it("shows takes that are not judged", async () => {
    list([
      { ...short, id: 4, verdict: null, state: "waiting", checker_version: null },
      { ...short, id: 5, verdict: null, state: "failed", failure: "The checker broke.", checker_version: null },
    ]);
    expect(await screen.findByText("Waits to be judged.")).toBeTruthy();
    expect(screen.getByText("The checker broke.")).toBeTruthy();
  });

  it("says what to do while it is empty", async () => {
    list([]);
    expect(await screen.findByText(/^None yet\./)).toBeTruthy();
  });
});

describe("marks on the ruler", () => {
  it("are pins for what was matched, thick only past the limit", () => {
    const pins = pinsOf(checked);
    expect(pins).toHaveLength(checked.notes.length);
    for (const [index, pin] of pins.entries()) {
      const note = checked.notes[index];
      const past = Math.abs(note?.deviation_ms ?? 0) > checked.limits.deviation_ms + (note?.uncertainty_ms ?? 0);
      expect(pin.matters).toBe(past);
    }
  });

  it("name what is missing, too many and found, at their places", () => {
    const place = { measure: "2", offset: "3/2", pass: 1 };
    const missing = { ...place, hand: "left" as const, pitch: 48, onset_quarters: 5.5 };
    const marks = marksOf(take, { ...checked, missing: [missing], extra: [] }, { ...verdict, place });
    expect(marks).toContainEqual({ onset_quarters: 5.5, text: "not played", kind: "missing" });
    const found = marks.find((mark) => mark.kind === "finding");
    expect(found?.onset_quarters).toBe(4 + 1.5);
    expect(found?.text).not.toBe("here");
  });

  it("lay what was heard beside them", () => {
    const row = { onset_quarters: 3, place_text: "bar 1", measured: null };
    expect(
      heardMarks([
        { ...row, heard: true },
        { ...row, heard: false },
      ]),
    ).toHaveLength(1);
  });
});
