import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { MeContext } from "../../api/me";
import type { Schemas } from "../../api/client";
import { draw, serve } from "../../testing/draw";
import { Aside } from "./Aside";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const found: Schemas["FoundPublic"] = {
  students: [{ id: 3, name: "Ilmi Oak", is_paused: true }],
  pieces: [{ id: 5, title: "Ilmi’s March", composer: "Bo Reed" }],
  takes: [
    {
      id: 8,
      piece_id: 5,
      title: "Ilmi’s March",
      student_id: 3,
      student: "Ilmi Oak",
      created_at: "2026-11-29T16:10:00Z",
      said: "steady",
      note: "calm today",
    },
  ],
};
const me = { role: "teacher", student_id: null } as Schemas["MePublic"];
const show = (role: Schemas["MePublic"]["role"] = "teacher") =>
  draw(
    <MeContext.Provider value={{ ...me, role, student_id: role === "teacher" ? null : 3 }}>
      <Aside />
    </MeContext.Provider>,
  );

describe("finding by name", () => {
  it("is opened by its key, and tells students, pieces and takes apart", async () => {
    const { asked } = serve({ "GET /api/search": found });
    show();
    fireEvent.keyDown(document.body, { key: "/" });
    const field = await screen.findByRole("combobox");
    expect(asked).toEqual([]); // of nothing nothing is asked
    fireEvent.change(field, { target: { value: " ilmi " } });
    const options = await screen.findAllByRole("option");
    expect(options.map((one) => one.textContent)).toEqual([
      expect.stringContaining("StudentsIlmi Oakpauses"),
      expect.stringContaining("PiecesIlmi’s MarchBo Reed"),
      expect.stringMatching(/^TakesIlmi Oak, Ilmi’s March.*steady · calm today$/),
    ]);
  });

  it("says when there is nothing", async () => {
    serve({ "GET /api/search": { students: [], pieces: [], takes: [] } });
    show();
    fireEvent.click(screen.getByRole("button", { name: /Find/ }));
    fireEvent.change(await screen.findByRole("combobox"), { target: { value: "xyz" } });
    expect(await screen.findByText("Nothing is called so.")).toBeTruthy();
  });

  it("is the teacher's; help is everybody's, with what is theirs", async () => {
    serve({});
    show("student");
    fireEvent.keyDown(document.body, { key: "/" });
    expect(screen.queryByRole("button", { name: /Find/ })).toBeNull();
    fireEvent.keyDown(document.body, { key: "?" });
    expect(await screen.findByText("For a parent, in ten sentences")).toBeTruthy();
    expect(screen.queryByText("A first lesson, step by step")).toBeNull();
    expect(screen.queryByRole("combobox")).toBeNull();
  });
});
