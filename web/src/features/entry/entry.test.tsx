import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Entry } from "../../api/client";
import { draw } from "../../testing/draw";
import { answers, piece } from "../../testing/fixtures";
import { EntryView } from "./EntryView";
import { keepTyped } from "./kept";
import type { Bar } from "./typing";

const note = (pitch: string) => ({ length: "1", pitches: [pitch], is_rest: false, is_tied: false });
const bars = (...pitches: string[]): Bar[] => [{ right: pitches.map(note), left: [] }];

/** A server that holds one passage and answers a store when the test lets it. */
class Holding {
  stored: Entry;
  /** How often it was asked to store, how many of these wait for an answer, and how many ever did at once. */
  asked = 0;
  waiting: (() => void)[] = [];
  mostAtOnce = 0;
  isSlow = false;
  losesAnswers = 0;

  constructor(...pitches: string[]) {
    const head = { title: piece.title, beats: 4, beat_type: 4 as const, pickup: "0", bpm: null, bar_quarters: "4" };
    this.stored = { ...head, bars: bars(...pitches), faults: [], version: 1 };
    vi.stubGlobal("fetch", (request: Request) => this.answer(request));
  }

  private async answer(request: Request): Promise<Response> {
    const path = new URL(request.url).pathname;
    if (path !== "/api/pieces/1/entry") return Response.json(answers[`${request.method} ${path}`] ?? {});
    if (request.method === "GET") return Response.json(this.stored);
    const body = (await request.json()) as Entry;
    this.asked += 1;
    if (this.isSlow) {
      const let_go = new Promise<void>((done) => this.waiting.push(done));
      this.mostAtOnce = Math.max(this.mostAtOnce, this.waiting.length);
      await let_go;
    }
    if (body.version !== this.stored.version) {
      const error = { code: "conflict", what: "this passage was changed in another window since." };
      return Response.json({ error }, { status: 409 });
    }
    this.stored = { ...this.stored, ...body, version: body.version + 1 };
    if (this.losesAnswers-- > 0) throw new TypeError("the line went dead");
    return Response.json(this.stored);
  }

  get pitches() {
    return this.stored.bars[0]?.right?.flatMap((event) => event.pitches ?? []).join(" ");
  }
}

async function open() {
  draw(<EntryView piece={piece} bpm={60} />);
  return screen.findByRole("application");
}

afterEach(() => {
  cleanup();
  localStorage.clear();
  vi.unstubAllGlobals();
});

describe("a passage stored while it is typed", () => {
  it("has one store under way at a time, however slow the server, and no conflict with itself", async () => {
    const server = new Holding();
    server.isSlow = true;
    const desk = await open();
    fireEvent.keyDown(desk, { key: "c" });
    await waitFor(() => expect(server.waiting.length).toBe(1));
    fireEvent.keyDown(desk, { key: "d" });
    await new Promise((done) => setTimeout(done, 600)); // longer than what it waits after a key
    fireEvent.keyDown(desk, { key: "e" });
    expect(server.asked).toBe(1);
    server.isSlow = false;
    server.waiting.shift()?.();
    await waitFor(() => expect(server.pitches).toBe("C5 D5 E5"));
    expect(await screen.findByText("stored")).toBeTruthy();
    expect([server.asked, server.mostAtOnce]).toEqual([2, 1]);
    expect(screen.queryByText(/another window/)).toBeNull();
  });

  it("knows its own store where the answer was lost, and goes on from it", async () => {
    const server = new Holding();
    server.losesAnswers = 1;
    const desk = await open();
    fireEvent.keyDown(desk, { key: "c" });
    expect(await screen.findByText("kept on this device")).toBeTruthy();
    expect(server.pitches).toBe("C5");
    fireEvent.keyDown(desk, { key: "d" });
    await waitFor(() => expect(server.pitches).toBe("C5 D5"), { timeout: 6000 });
    expect(await screen.findByText("stored")).toBeTruthy();
    expect(screen.queryByText(/another window/)).toBeNull();
  });

  it("does not write over another window's change, and says so", async () => {
    const server = new Holding("A4");
    const desk = await open();
    server.stored = { ...server.stored, bars: bars("B4"), version: 2 };
    fireEvent.keyDown(desk, { key: "c" });
    expect(await screen.findByText(/changed in another window/i)).toBeTruthy();
    expect(server.pitches).toBe("B4");
  });

  it("offers what was typed here and not stored, but not what is there already", async () => {
    keepTyped(1, { version: 4, bars: bars("A4") });
    new Holding("A4");
    await open();
    expect(screen.queryByText(/not stored/)).toBeNull();
    cleanup();
    keepTyped(1, { version: 4, bars: bars("A4", "B4") });
    await open();
    expect(await screen.findByText(/was typed on this device and not stored/)).toBeTruthy();
  });
});
