import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { Refusal, draw, serve } from "../../testing/draw";
import { Removed } from "./Removed";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const at = "2026-11-29T16:10:00Z";
const items = [
  { kind: "piece", id: 5, words: "Harbour Steps", whose: null, deleted_at: at, created_at: null },
  { kind: "take", id: 8, words: "Five Stones", whose: "Ilmi", deleted_at: at, created_at: at },
];

describe("what was removed", () => {
  it("is listed with how long it is kept, and put back", async () => {
    const { asked } = serve({ "GET /api/removed": { items, kept_days: 30 }, "POST /api/takes/8/restore": {} });
    draw(<Removed />);
    expect(await screen.findByText(/can be put back for 30 days/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Put back take “Five Stones”" }));
    expect(await screen.findByText("“Five Stones” is back.")).toBeTruthy();
    await waitFor(() => expect(asked.filter((one) => one === "GET /api/removed").length).toBe(2));
  });

  it("says when there is nothing, and why something could not be", async () => {
    serve({ "GET /api/removed": { items: [], kept_days: 30 } });
    draw(<Removed />);
    expect(await screen.findByText(/Nothing was removed in the last 30 days/)).toBeTruthy();
    cleanup();

    serve({
      "GET /api/removed": { items, kept_days: 30 },
      "POST /api/pieces/5/restore": new Refusal(404, { code: "not-found", what: "this piece is not here." }),
    });
    draw(<Removed />);
    fireEvent.click(await screen.findByRole("button", { name: "Put back piece “Harbour Steps”" }));
    expect(await screen.findByText("this piece is not here.")).toBeTruthy();
  });
});
