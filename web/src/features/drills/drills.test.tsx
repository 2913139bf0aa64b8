import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Schemas } from "../../api/client";
import { Refusal, draw, serve } from "../../testing/draw";
import { answers, counts, piece } from "../../testing/fixtures";
import { Drills } from "./Drills";

/** A list is fetched when it is first opened. */
const SLOW = { timeout: 15_000 };
const PLAIN = {
  usual: "",
  choices: [],
  of_piece: false,
  is_needed: false,
  is_list: false,
  only_with: null,
  is_extra: false,
  picks: "" as const,
};
const KINDS: Schemas["DrillKind"][] = [
  {
    key: "ratio",
    title: "Scales in ratios",
    trains: "One hand faster.",
    options: [
      {
        key: "fast",
        words: "Fast is",
        usual: "right",
        choices: [
          { value: "right", words: "the right hand" },
          { value: "left", words: "the left hand" },
        ],
        of_piece: false,
        is_needed: false,
        is_list: false,
        only_with: null,
        is_extra: false,
        picks: "",
      },
      { ...PLAIN, key: "tempo", words: "Tempo" },
    ],
  },
  {
    key: "layer",
    title: "A left hand in layers",
    trains: "The tune stays.",
    options: [
      { ...PLAIN, key: "of", words: "The tune of", of_piece: true, is_needed: true },
      {
        ...PLAIN,
        key: "pattern",
        words: "The left hand plays",
        usual: "pulse",
        choices: [
          { value: "pulse", words: "the pulse" },
          { value: "own", words: "one of my own" },
        ],
        is_list: true,
      },
      {
        ...PLAIN,
        key: "own",
        words: "My own is written in",
        of_piece: true,
        only_with: { key: "pattern", value: "own" },
      },
    ],
  },
  {
    key: "spot",
    title: "A spot of a piece",
    trains: "The place that will not go.",
    options: [
      { ...PLAIN, key: "of", words: "A spot of", of_piece: true, is_needed: true },
      { ...PLAIN, key: "measures", words: "Bars", picks: "bars" },
      { ...PLAIN, key: "within", words: "From", picks: "strikes" },
    ],
  },
];
const LOOK: Schemas["DrillPublic"] = {
  title: "C major, 2 : 1",
  bars: 2,
  sentence: "you meet on C, on one key.",
  meetings: [{ onset_quarters: 7, place_text: "bar 2, beat 4", right: "C4", left: "C4", same_key: true }],
  roots: [],
  ruler: piece.ruler,
  counts,
};

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const show = (more: Record<string, unknown> = {}, at = "/drills/ratio") => {
  const { asked } = serve({
    ...answers,
    "GET /api/drills": KINDS,
    "POST /api/drills/look": LOOK,
    "POST /api/drills": { ...piece, id: 7 },
    ...more,
  });
  draw(<Drills />, { path: "/drills/:kind?", at });
  return asked;
};

describe("drills", () => {
  it("are looked at at once, with where the hands meet", async () => {
    show();
    expect(await screen.findByText("C major, 2 : 1")).toBeTruthy();
    expect(screen.getByRole("list", { name: "Where the hands meet" }).textContent).toBe(
      "bar 2, beat 4: right hand C4, left hand C4, one key",
    );
    expect(screen.getByRole("link", { name: /A left hand in layers/ })).toBeTruthy();
  });

  it("say that dashes are claps, where there are any", async () => {
    show();
    await screen.findByText("C major, 2 : 1");
    expect(screen.queryByText("In dashes: a clap.")).toBeNull();
    cleanup();
    const right = piece.ruler.right.map((span) => ({ ...span, is_clap: true }));
    show({ "POST /api/drills/look": { ...LOOK, ruler: { ...piece.ruler, right } } });
    expect(await screen.findByText("In dashes: a clap.")).toBeTruthy();
  });

  it("are kept in one press, as they are chosen", async () => {
    const asked = show();
    await screen.findByText("C major, 2 : 1");
    fireEvent.change(screen.getByLabelText("Tempo"), { target: { value: "72" } });
    fireEvent.click(screen.getByRole("button", { name: "Practise it" }));
    const kept = JSON.stringify({ kind: "ratio", options: { fast: "right", tempo: "72" } });
    await waitFor(() => expect(asked).toContain(`POST /api/drills ${kept}`));
  });

  it("say what cannot be made, and are not kept then", async () => {
    const refused = new Refusal(422, { code: "option", what: "“x” is no tempo.", todo: "Write a number of beats." });
    show({ "POST /api/drills/look": refused });
    expect((await screen.findByRole("alert")).textContent).toContain("is no tempo");
    expect(screen.getByRole("button", { name: "Practise it" })).toHaveProperty("disabled", true);
  });

  it("have patterns in a row, and ask for one's own only where it is one of them", async () => {
    const asked = show({}, "/drills/layer?of=3");
    await screen.findByText("C major, 2 : 1");
    expect(screen.queryByText("My own is written in")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "One more after it" }));
    expect(await screen.findByText("My own is written in")).toBeTruthy();
    const both = JSON.stringify({ kind: "layer", options: { of: "3", pattern: "pulse,own" } });
    await waitFor(() => expect(asked).toContain(`POST /api/drills/look ${both}`));
    fireEvent.click(screen.getByRole("button", { name: "Leave number 1 out" }));
    const own = JSON.stringify({ kind: "layer", options: { of: "3", pattern: "own" } });
    await waitFor(() => expect(asked).toContain(`POST /api/drills/look ${own}`));
  });

  it("are made of bars and strikes that are chosen; other bars forget the strikes", async () => {
    const { id } = piece;
    const strikes = [
      { offset: "0", words: "beat 1" },
      { offset: "2", words: "beat 3" },
    ];
    const asked = show(
      {
        "GET /api/pieces": { items: [{ id, title: "A tune" }], next: null },
        [`GET /api/pieces/${id}`]: piece,
        [`GET /api/pieces/${id}/strikes`]: strikes,
      },
      `/drills/spot?of=${id}&measures=2-3`,
    );
    fireEvent.click(await screen.findByRole("button", { name: "From bar 2: its beginning" }));
    fireEvent.click(await screen.findByRole("option", { name: "beat 3" }, SLOW));
    const spot = JSON.stringify({ kind: "spot", options: { of: String(id), measures: "2-3", within: "2..2" } });
    await waitFor(() => expect(asked).toContain(`POST /api/drills/look ${spot}`));
    fireEvent.click(screen.getByRole("button", { name: "Bars: bar 2" }));
    fireEvent.click(await screen.findByRole("option", { name: "bar 1" }, SLOW));
    const bars = JSON.stringify({ kind: "spot", options: { of: String(id), measures: "1-3" } });
    await waitFor(() => expect(asked).toContain(`POST /api/drills/look ${bars}`));
  });

  it("need a piece for a tune", async () => {
    show({ "GET /api/pieces": { items: [], next: null } }, "/drills/layer");
    expect(await screen.findByText("There is no piece on the shelf to make it of.")).toBeTruthy();
  });
});
