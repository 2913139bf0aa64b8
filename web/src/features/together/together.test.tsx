import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { TogetherMap } from "../../api/client";
import { draw, serve } from "../../testing/draw";
import { answers, piece } from "../../testing/fixtures";
import { TogetherView } from "./TogetherView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

const at = `/api/pieces/${piece.id}`;
const map = answers[`GET ${at}/map`] as TogetherMap;

function show(over: Partial<TogetherMap> = {}, of = piece, span: number | null = null) {
  const server = serve({ ...answers, [`GET ${at}/map`]: { ...map, ...over } });
  const [onPractise, onLadder, onDrill] = [vi.fn(), vi.fn(), vi.fn()];
  draw(
    <TogetherView
      piece={of}
      reach={{ span, of: "Ilmi" }}
      counts={undefined}
      onPractise={onPractise}
      onLadder={onLadder}
      onDrill={onDrill}
      say={vi.fn()}
      keyboard={null}
    />,
  );
  return { ...server, onPractise, onLadder, onDrill };
}

describe("how far a hand reaches", () => {
  it("is as the student's is noted, and looked at otherwise without being kept", async () => {
    show({}, piece, 6);
    expect(await screen.findByText(/^As far as Ilmi reaches/)).toBeTruthy();
    expect(screen.getByRole("button", { name: /The hand spans/ }).textContent).toContain("a sixth");
    cleanup();

    show();
    expect(await screen.findByText(/^What one hand reaches at most/)).toBeTruthy();
    expect(screen.getByRole("button", { name: /The hand spans/ }).textContent).toContain("an octave");
  });
});

describe("where it is hardest", () => {
  it("is told first, with its reason, and leads to practising just that", async () => {
    const { onPractise, onLadder, onDrill } = show();
    const list = within(await screen.findByRole("region", { name: "Hardest first" }));
    const titles = list.getAllByRole("listitem").map((one) => one.querySelector("button")?.textContent);
    expect(titles).toEqual(map.hardest.slice(0, 4).map(({ title }) => title));
    const second = map.hardest[1];
    fireEvent.click(list.getByRole("button", { name: second?.title ?? "" }));
    expect(list.getAllByText(second?.words ?? "").length).toBeGreaterThan(0);
    fireEvent.click(list.getByRole("button", { name: "Practise it" }));
    expect(onPractise).toHaveBeenCalledWith(second);
    fireEvent.click(list.getByRole("button", { name: "Onto the ladder" }));
    expect(onLadder).toHaveBeenCalledWith(second);
    fireEvent.click(list.getByRole("button", { name: "In all keys" }));
    expect(onDrill).toHaveBeenCalledWith(second);
  });

  it("is said to be nowhere, where nothing is hard", async () => {
    show({ hardest: [], beyond: null });
    expect(await screen.findByText(/No place stands out/)).toBeTruthy();
    expect(screen.queryByText(/Harder to join/)).toBeNull();
  });
});

describe("what to point at in the notes", () => {
  const aid = (words: string) => ({ kind: "broken-chord" as const, onset_quarters: 4, words });

  it("is told, the first of it at first, and leads to its bar", async () => {
    show({ aids: ["one", "two", "three", "four", "five", "six"].map(aid) });
    const list = within(await screen.findByRole("region", { name: "In the notes" }));
    expect(list.getAllByRole("listitem")).toHaveLength(5);
    fireEvent.click(list.getByRole("button", { name: "All 6" }));
    expect(list.getAllByRole("listitem")).toHaveLength(6);
    const seen = vi.fn();
    Element.prototype.scrollIntoView = seen;
    fireEvent.click(list.getByRole("button", { name: "six" }));
    expect(seen.mock.contexts[0]).toBe(document.querySelector('[data-bar="4"]'));
  });

  it("is left out where there is nothing", async () => {
    show({ aids: [] });
    await screen.findByRole("region", { name: "Hardest first" });
    expect(screen.queryByRole("region", { name: "In the notes" })).toBeNull();
  });
});

describe("the ruler", () => {
  it("shows where each hand stands, by name, and every move", async () => {
    show();
    await screen.findByRole("region", { name: "Hardest first" });
    const names = [...document.querySelectorAll("[data-position]")].map((one) => one.getAttribute("data-position"));
    expect(new Set(names)).toEqual(new Set(map.positions.map(({ name }) => name)));
    const moves = new Set([...document.querySelectorAll("[data-shift] title")].map((one) => one.textContent));
    expect(moves).toEqual(new Set(map.shifts.map(({ words }) => words)));
  });

  it("has deeper notches where it is harder", async () => {
    show();
    await screen.findByRole("region", { name: "Hardest first" });
    const deep = [...document.querySelectorAll<SVGPathElement>("[data-seam]")].map((one) => ({
      at: Number(one.dataset.seam),
      deep: Number(/h([\d.]+)/.exec(one.getAttribute("d") ?? "")?.[1]),
    }));
    const points = new Map(map.seams.map((seam) => [seam.to_quarters, seam.difficulty]));
    const ordered = deep.toSorted((a, b) => (points.get(a.at) ?? 0) - (points.get(b.at) ?? 0)).map((one) => one.deep);
    expect(ordered.length).toBeGreaterThan(3);
    expect(ordered).toEqual(ordered.toSorted((a, b) => a - b));
  });
});

describe("lining up", () => {
  it("begins where the hand that moves last played, and goes on and back", async () => {
    show();
    const seam = map.hardest.find(({ kind }) => kind === "seam");
    const list = within(await screen.findByRole("region", { name: "Hardest first" }));
    fireEvent.click(list.getByRole("button", { name: seam?.title ?? "" }));
    fireEvent.click(list.getByRole("button", { name: "Line it up" }));
    const card = within(screen.getByRole("region", { name: "Line it up" }));
    const first = map.events.findIndex((event) => event.onset_quarters === seam?.from_quarters);
    expect(card.getByText(`${first + 1} of ${map.events.length}`)).toBeTruthy();
    fireEvent.click(card.getByRole("button", { name: /Next/ }));
    expect(card.getByText(`${first + 2} of ${map.events.length}`)).toBeTruthy();
    fireEvent.click(card.getByRole("button", { name: "Back" }));
    expect(card.getByText(map.events[first]?.place ?? "")).toBeTruthy();
    fireEvent.click(card.getByRole("button", { name: "Close" }));
    await waitFor(() => expect(screen.queryByRole("region", { name: "Line it up" })).toBeNull());
  });
});

it("says of a piece for one hand that there is nothing to join", async () => {
  show({}, { ...piece, hands: ["right"] });
  expect(await screen.findByText(/This piece is for one hand/)).toBeTruthy();
});
