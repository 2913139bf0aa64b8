import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Bundle } from "../../api/bundles";
import { Refusal, draw, serve } from "../../testing/draw";
import { Copies } from "./Copies";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const bundle = (more: Partial<Bundle>): Bundle => ({
  id: 7,
  direction: "in",
  filename: "By the mill 2026-11-30.zip",
  size: 2_400_000,
  is_complete: true,
  created_at: "2026-11-30T10:00:00Z",
  contents: { of: "studio", studio: "By the mill", counted: { students: 5, pieces: 1, takes: 44, studies: 9 } },
  here: [],
  is_first: true,
  brought: null,
  chunk_bytes: 4,
  ...more,
});
const job = (state: string, error: object | null = null) => ({
  id: 3,
  kind: "import",
  state,
  progress: 0,
  whole: 0,
  judged: null,
  error,
});
const coming = {
  "POST /api/bundles/coming": bundle({ is_complete: false, contents: null }),
  "PUT /api/bundles/7/chunks/0": {},
  "PUT /api/bundles/7/chunks/1": {},
  "PUT /api/bundles/7/chunks/2": {},
};
const choose = () =>
  fireEvent.change(screen.getByLabelText("A copy of a studio"), {
    target: { files: [new File(["0123456789"], "mill.zip")] },
  });

describe("a copy of the studio", () => {
  it("is packed, and told with what is in it", async () => {
    const click = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => undefined);
    const { asked } = serve({
      "POST /api/bundles": { bundle: bundle({ is_complete: false }), job: job("done") },
      "GET /api/bundles/7": bundle({ direction: "out" }),
    });
    draw(<Copies />);
    fireEvent.click(screen.getByRole("button", { name: "Save a copy of the studio" }));
    expect(await screen.findByText(/5 students, 1 piece, 44 takes; 2.4 MB/)).toBeTruthy();
    expect(screen.getByRole("link", { name: "By the mill 2026-11-30.zip" }).getAttribute("href")).toBe(
      "/api/bundles/7/file",
    );
    expect(asked[0]).toBe('POST /api/bundles {"student_id":null}');
    expect(click).toHaveBeenCalledTimes(1);
    click.mockRestore();
  });

  it("says why it could not be", async () => {
    serve({ "POST /api/bundles": new Refusal(503, { code: "storage", what: "there is no room left." }) });
    draw(<Copies />);
    fireEvent.click(screen.getByRole("button", { name: "Save a copy of the studio" }));
    expect(await screen.findByText("there is no room left.")).toBeTruthy();
  });
});

describe("one that is brought in", () => {
  it("is sent by parts, looked at, and only then brought in; and can be taken back", async () => {
    const { asked } = serve({
      ...coming,
      "POST /api/bundles/7/complete": bundle({}),
      "POST /api/bundles/7/bring-in": job("done"),
      "GET /api/bundles/7": bundle({ brought: { pieces: 1, students: 5, takes: 44 } }),
      "POST /api/bundles/7/take-back": bundle({}),
    });
    draw(<Copies />);
    choose();
    expect(await screen.findByText("The studio “By the mill”: 5 students, 1 piece, 44 takes")).toBeTruthy();
    expect(screen.getByText(/Nothing is in this studio yet/)).toBeTruthy();
    expect(asked.filter((one) => one.startsWith("PUT")).length).toBe(3);
    expect(asked.some((one) => one.includes("bring-in"))).toBe(false);
    fireEvent.click(screen.getByRole("button", { name: "Bring it in" }));
    expect(await screen.findByText("5 students, 1 piece, 44 takes came in.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Undo" }));
    await waitFor(() => expect(asked.at(-1)).toContain("take-back"));
  });

  it("can be left", async () => {
    const { asked } = serve({ ...coming, "POST /api/bundles/7/complete": bundle({ is_first: false }) });
    draw(<Copies />);
    choose();
    expect(await screen.findByText(/It is added to what is here/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Leave it" }));
    await waitFor(() => expect(screen.queryByRole("button", { name: "Bring it in" })).toBeNull());
    expect(asked.at(-1)).toContain("complete");
  });

  it("is refused in words when it is something else, or damaged", async () => {
    const error = { code: "bad-bundle", what: "this is no zip, or not all of it.", kept: "Nothing was brought in." };
    serve({ ...coming, "POST /api/bundles/7/complete": new Refusal(422, error) });
    draw(<Copies />);
    choose();
    expect(await screen.findByText("this is no zip, or not all of it.")).toBeTruthy();
    cleanup();

    const where = "students/01 Ilmi/takes.jsonl[1].level";
    serve({
      ...coming,
      "POST /api/bundles/7/complete": bundle({}),
      "POST /api/bundles/7/bring-in": job("failed", { ...error, what: "this takes text.", where, todo: null }),
    });
    draw(<Copies />);
    choose();
    fireEvent.click(await screen.findByRole("button", { name: "Bring it in" }));
    expect(await screen.findByText(`Where: ${where}`)).toBeTruthy();
  });
});
