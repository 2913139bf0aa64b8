import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Schemas } from "../../api/client";
import { draw, serve } from "../../testing/draw";
import { StudentPage } from "./StudentPage";
import { Students } from "./Students";
import { agreedWords, daysOfWeek, lastPractised } from "./words";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

/** What was sent of a kind. */
const sent = (asked: string[], name: string) =>
  asked.filter((one) => one.startsWith(`${name} `)).map((one) => JSON.parse(one.slice(name.length + 1)) as unknown);

const days = (...ago: number[]) => Array.from({ length: 28 }, (_, day) => ago.includes(27 - day));

const aila: Schemas["StudentShort"] = {
  id: 3,
  name: "Aila",
  level: "first-year",
  is_paused: false,
  is_built_in: false,
  studies: 2,
  practised: days(0, 2),
};
const bo: Schemas["StudentShort"] = { ...aila, id: 4, name: "Bo", level: null, studies: 0, practised: days() };
const study: Schemas["StudyShort"] = {
  id: 9,
  piece_id: 5,
  measures: "1-4",
  title: "Harbour steps",
  composer: "",
  given_at: "2026-11-01T10:00:00Z",
  is_ended: false,
  takes: 3,
  last_at: "2026-11-20T10:00:00Z",
  rungs: 12,
  passed: 4,
  next_words: "Left hand",
  bar_states: ["known", "begun", "untouched", "untouched"],
  unread: false,
};
const shown: Schemas["StudentShownPublic"] = {
  student: {
    id: 3,
    name: "Aila",
    level: "first-year",
    span: 6,
    school: { first: "count" },
    days_a_week: 5,
    minutes_a_day: 10,
    note: "left wrist high",
    is_paused: false,
    things_a_day: null,
    softer_percent: 0,
    is_built_in: false,
    version: 2,
  },
  studies: [study, { ...study, id: 10, title: "Kettle", measures: "", is_ended: true }],
  practised: days(0, 2),
  overruled: 0,
};

describe("Practice in words", () => {
  it.each([
    [days(0), "today"],
    [days(1, 5), "yesterday"],
    [days(6), "6 days ago"],
    [days(7), "1 week ago"],
    [days(27), "3 weeks ago"],
    [days(), "not in the last 4 weeks"],
  ])("says when the last was", (practised, words) => {
    expect(lastPractised(practised)).toBe(words);
  });

  it("counts the days of a week, and says what is agreed", () => {
    expect(daysOfWeek(days(0, 3, 6, 7))).toBe(3);
    expect(agreedWords(5, 10)).toBe("5 days a week, 10 minutes");
    expect(agreedWords(1, null)).toBe("1 day a week");
    expect(agreedWords(null, null)).toBe("");
  });
});

describe("The students", () => {
  it("stand in a list with who practised, those that are paused apart", async () => {
    serve({ "GET /api/students": { items: [aila, { ...bo, is_paused: true }], next: null } });
    draw(<Students />, { at: "/students" });
    const row = (await screen.findByRole("link", { name: "Aila" })).closest("li") as HTMLElement;
    expect(within(row).getByText("2 studies on the go")).toBeTruthy();
    expect(within(row).getByText("today")).toBeTruthy();
    expect(within(row).getByRole("img").getAttribute("aria-label")).toBe("practised on 2 of the last 28 days");
    expect(screen.getByText("1 student paused")).toBeTruthy();
  });

  it("are added by a name alone", async () => {
    const { asked } = serve({
      "GET /api/students": { items: [aila], next: null },
      "POST /api/students": { ...shown.student, id: 8, name: "Cleo" },
    });
    draw(<Students />, { at: "/students" });
    fireEvent.click(await screen.findByRole("button", { name: "Add a student" }));
    const keep = await screen.findByRole("button", { name: "Keep" });
    expect((keep as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(screen.getByRole("textbox", { name: "Name" }), { target: { value: "Cleo" } });
    fireEvent.click(keep);
    await waitFor(() => expect(sent(asked, "POST /api/students")).toHaveLength(1));
    expect(sent(asked, "POST /api/students")[0]).toMatchObject({
      name: "Cleo",
      level: null,
      span: null,
      is_paused: false,
    });
  });
});

describe("A student", () => {
  const open = (more: Record<string, unknown> = {}) => {
    const { asked } = serve({
      "GET /api/students/3": shown,
      "GET /api/students/3/takes": { items: [], next: null },
      "GET /api/students": { items: [aila, bo], next: null },
      "GET /api/pieces": { items: [], next: null },
      ...more,
    });
    draw(<StudentPage />, { path: "/students/:studentId", at: "/students/3" });
    return asked;
  };

  it("has what is agreed, the studies on the go and those that ended", async () => {
    open();
    await screen.findByRole("heading", { name: "Aila" });
    expect(
      screen.getByText(/a hand spans a sixth · 5 days a week, 10 minutes · taught in a way of their own/),
    ).toBeTruthy();
    expect(screen.getByText("left wrist high")).toBeTruthy();
    const link = screen.getByRole("link", { name: /Harbour steps/ });
    expect(link.getAttribute("href")).toBe("/pieces/5?student=3&passage=1-4&view=practise");
    expect(screen.getByText("1 study ended")).toBeTruthy();
    expect(screen.getByText(/2 of the last 7 days/).textContent).toContain("(5 agreed)");
  });

  it("is offered softer limits where the teacher often says otherwise, until there are some", async () => {
    open({ "GET /api/students/3": { ...shown, overruled: 3 } });
    expect(await screen.findByText(/^3 takes of these weeks you call better/)).toBeTruthy();
    cleanup();

    const student = { ...shown.student, softer_percent: 25, things_a_day: 1 };
    open({ "GET /api/students/3": { ...shown, student, overruled: 3 } });
    expect(await screen.findByText(/limits 25 % wider · one thing at a time/)).toBeTruthy();
    expect(screen.queryByText(/you call better/)).toBeNull();
  });

  it("ends a study with a way back", async () => {
    const asked = open({ "PUT /api/studies/9/ended": shown });
    fireEvent.click(await screen.findByRole("button", { name: "More for “Harbour steps”" }));
    fireEvent.click(screen.getByRole("menuitem", { name: "It is ended" }));
    fireEvent.click(await screen.findByRole("button", { name: "Undo" }));
    await waitFor(() => expect(sent(asked, "PUT /api/studies/9/ended")).toEqual([{ ended: true }, { ended: false }]));
  });

  it("is paused by the version that is seen", async () => {
    const asked = open({ "PUT /api/students/3": shown });
    fireEvent.click(await screen.findByRole("button", { name: "More for Aila" }));
    fireEvent.click(screen.getByRole("menuitem", { name: "Pauses for a while" }));
    await waitFor(() => expect(sent(asked, "PUT /api/students/3")).toHaveLength(1));
    expect(sent(asked, "PUT /api/students/3")[0]).toMatchObject({
      version: 2,
      facts: { name: "Aila", is_paused: true },
    });
  });
});
