import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { PieceAdded, PieceShort } from "../../api/client";
import { Refusal, draw, serve } from "../../testing/draw";
import { answers, piece } from "../../testing/fixtures";
import { Shelf } from "./Shelf";

const page = (items: unknown[]) => ({ items, next: null });

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

const added: PieceAdded = { ...piece, notices: [], same_file_as: null };
const score = (name: string) => new File(["<score-partwise/>"], name, { type: "application/xml" });
const pick = (...files: File[]) => fireEvent.change(screen.getByLabelText("Score files"), { target: { files } });

describe("the shelf", () => {
  it("shows a piece with its meter, its bars and how far it has come", async () => {
    serve(answers);
    draw(<Shelf />);
    const face = within((await screen.findByRole("link", { name: piece.title })).closest("li") as HTMLElement);
    expect(face.getByText(/4\/4 · 8 bars/)).toBeTruthy();
    expect(face.getByText("0 of 29 rungs")).toBeTruthy();
    expect(face.getByText("Hear it")).toBeTruthy();
    expect(face.getByRole("img", { name: /0 of 8 bars known with both hands/ })).toBeTruthy();
    expect(face.getByText("1 take")).toBeTruthy();
  });

  it("is sorted by how hard the pieces are to join, one hand last, and says which are more than their level", async () => {
    const one = (id: number, title: string, difficulty: number | null, is_beyond = false): PieceShort => ({
      ...((answers["GET /api/pieces"] as { items: PieceShort[] }).items[0] as PieceShort),
      ...{ id, title, difficulty, is_beyond },
    });
    serve({
      ...answers,
      "GET /api/pieces": page([one(1, "A", 40, true), one(2, "B", null), one(3, "C", 12.4), one(4, "D", 80)]),
    });
    localStorage.setItem("laptick.shelf.order", JSON.stringify("easy"));
    draw(<Shelf />);
    await screen.findByRole("link", { name: "A" });
    expect(screen.getAllByRole("link").map((link) => link.textContent)).toEqual(["C", "A", "D", "B"]);
    expect(screen.getByText("joining 40, above its level")).toBeTruthy();
    expect(screen.getByText(/joining 12$/)).toBeTruthy();
  });

  it("says what to do when it is empty", async () => {
    serve({ "GET /api/pieces": page([]) });
    draw(<Shelf />);
    expect(await screen.findByText("The shelf is empty.")).toBeTruthy();
    expect(screen.getByRole("button", { name: "Write one" })).toBeTruthy();
  });

  it("takes a piece off and puts it back", async () => {
    const at = `/api/pieces/${piece.id}`;
    const { asked } = serve({ ...answers, [`DELETE ${at}`]: {}, [`POST ${at}/restore`]: piece });
    draw(<Shelf />);
    fireEvent.click(await screen.findByRole("button", { name: `More for “${piece.title}”` }));
    fireEvent.click(
      within(screen.getAllByRole("menu")[0] as HTMLElement).getByRole("menuitem", { name: "Remove from the shelf" }),
    );
    fireEvent.click(await screen.findByRole("button", { name: /undo/i }));
    await waitFor(() => expect(asked).toContain(`POST ${at}/restore`));
    expect(asked).toContain(`DELETE ${at}`);
  });

  it("tries every file, and tells of each what came of it", async () => {
    serve({ ...answers, "POST /api/pieces": added });
    draw(<Shelf />);
    await screen.findByRole("link", { name: piece.title });
    pick(score("one.musicxml"), score("two.musicxml"));
    const report = within(await screen.findByRole("region", { name: "What was added" }));
    expect(await report.findByText("2 scores added")).toBeTruthy();
    expect(report.getByText(/from one.musicxml: 8 bars, both hands/)).toBeTruthy();
  });

  it("says why a file was not read, and keeps the shelf as it was", async () => {
    const what = "“notes.txt” is neither MusicXML nor MIDI.";
    serve({ ...answers, "POST /api/pieces": new Refusal(422, { code: "unreadable", what, todo: "Save it anew." }) });
    draw(<Shelf />);
    await screen.findByRole("link", { name: piece.title });
    pick(score("notes.txt"), score("more.txt"));
    const report = within(await screen.findByRole("region", { name: "What was added" }));
    expect(await report.findByText("0 scores added, 2 not")).toBeTruthy();
    expect(report.getAllByText(new RegExp(what))).toHaveLength(2);
    expect(screen.getByRole("link", { name: piece.title })).toBeTruthy();
  });

  it("says that the server cannot be reached, and that it goes on by itself", async () => {
    vi.stubGlobal(
      "fetch",
      vi.fn(() => Promise.reject(new TypeError("no network"))),
    );
    draw(<Shelf />);
    expect((await screen.findByRole("alert")).textContent).toContain("Lap Tick’s server does not answer.");
  });

  it("names every level of its pieces in words", async () => {
    const pieces = (answers["GET /api/pieces"] as { items: PieceShort[] }).items;
    serve({ "GET /api/pieces": page(pieces.map((one) => ({ ...one, level: "first-year" }))) });
    draw(<Shelf />);
    expect(await screen.findByText(/first year/)).toBeTruthy();
  });
});
