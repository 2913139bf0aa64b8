import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Roadmap } from "../../api/client";
import { draw, serve } from "../../testing/draw";
import { answers, piece, roadmap } from "../../testing/fixtures";
import { RoadmapView } from "./RoadmapView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

const at = `/api/pieces/${piece.id}`;
const show = (road: Partial<Roadmap> = {}, more: Record<string, unknown> = {}) => {
  const server = serve({ ...answers, [`GET ${at}/roadmap`]: { ...roadmap, ...road }, ...more });
  draw(<RoadmapView piece={piece} />);
  return server;
};

describe("the playing order", () => {
  it("shows every bar once, with the letter of its rhythm", async () => {
    show();
    const order = within(await screen.findByRole("region", { name: "Playing order" }));
    expect(order.getByText(/As it is written, every bar once\./)).toBeTruthy();
    const names = order
      .getAllByRole("listitem")
      .flatMap((one) => [...one.querySelectorAll("b")].map((b) => b.textContent));
    expect(names).toEqual(roadmap.order);
  });

  it("is corrected by typing stretches", async () => {
    const { asked } = show({}, { [`PUT ${at}/roadmap`]: roadmap });
    fireEvent.click(await screen.findByRole("button", { name: "Correct it" }));
    const field = screen.getByRole("textbox", { name: /Bars as they are played/ });
    expect((field as HTMLInputElement).value).toBe("1–8");
    fireEvent.change(field, { target: { value: "1-2, 1-2, 3-8" } });
    fireEvent.click(screen.getByRole("button", { name: "Play it so" }));
    const order = ["1", "2", "1", "2", "3", "4", "5", "6", "7", "8"];
    await waitFor(() => expect(asked).toContain(`PUT ${at}/roadmap ${JSON.stringify({ order })}`));
  });

  it("says which bar there is none of, and stores nothing", async () => {
    const { asked } = show();
    fireEvent.click(await screen.findByRole("button", { name: "Correct it" }));
    fireEvent.change(screen.getByRole("textbox", { name: /Bars/ }), { target: { value: "1-99" } });
    expect(screen.getByText(/99/, { selector: "[role=status]" })).toBeTruthy();
    expect((screen.getByRole("button", { name: "Play it so" }) as HTMLButtonElement).disabled).toBe(true);
    expect(asked.filter((one) => one.startsWith("PUT"))).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Leave it as it was" }));
    expect(screen.queryByRole("textbox", { name: /Bars/ })).toBeNull();
  });

  it("goes back to the signs of the score", async () => {
    const { asked } = show({ is_own: true, is_plain: false }, { [`PUT ${at}/roadmap`]: roadmap });
    expect(await screen.findByText(/As you ordered it\./)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Back to the signs of the score" }));
    await waitFor(() => expect(asked).toContain(`PUT ${at}/roadmap {"order":null}`));
  });

  it("names what it could not follow", async () => {
    show({ problems: [{ measure: "6", text: "the repeat is never closed" }] });
    expect(await screen.findByText("Bar 6: the repeat is never closed.")).toBeTruthy();
  });
});

describe("bars and rhythms", () => {
  it("tells of each bar what an earlier one has in common with it", async () => {
    show();
    const bars = within(await screen.findByRole("region", { name: "Bars" }));
    const rows = bars.getAllByRole("listitem");
    expect(rows).toHaveLength(roadmap.bars.length);
    for (const [index, bar] of roadmap.bars.entries())
      expect(rows[index]?.textContent).toContain(
        bar.same_notes_as ? `the same as bar ${bar.same_notes_as}` : bar.letter,
      );
  });

  it("begins a line at a bar, and keeps the others", async () => {
    const { asked } = show({}, { [`PUT ${at}/reading`]: answers[`GET ${at}/reading`] });
    const bars = within(await screen.findByRole("region", { name: "Bars" }));
    const buttons = await bars.findAllByRole("button", { name: "begin a line here" });
    await waitFor(() => expect((buttons[0] as HTMLButtonElement).disabled).toBe(false));
    fireEvent.click(buttons[0] as HTMLElement);
    await waitFor(() => expect(asked.some((one) => one.startsWith(`PUT ${at}/reading`))).toBe(true));
    const sent =
      asked
        .find((one) => one.startsWith("PUT"))
        ?.split(" ")
        .slice(2)
        .join(" ") ?? "";
    const kept = roadmap.bars.filter((bar) => bar.begins_line).map((bar) => bar.number);
    expect(JSON.parse(sent)).toMatchObject({ line_starts: expect.arrayContaining([...kept, "2"]) as string[] });
  });

  it("counts the rhythms of each hand", async () => {
    show();
    const rhythms = within(await screen.findByRole("region", { name: "Rhythms" }));
    for (const hand of ["right", "left"]) {
      const uses = roadmap.rhythms.filter((use) => use.hand === hand);
      expect(rhythms.getByText(new RegExp(`${hand} hand: ${uses.length} rhythm`))).toBeTruthy();
    }
  });
});
