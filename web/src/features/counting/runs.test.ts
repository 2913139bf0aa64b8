import { describe, expect, it } from "vitest";

import { runsOf } from "./runs";

describe("playing order in one line", () => {
  it("joins bars that go on, and begins anew at every jump", () => {
    expect(runsOf(["1", "2", "1", "2", "3"])).toEqual(["1–2", "1–3"]);
    expect(runsOf(["0", "1", "3"])).toEqual(["0–1", "3"]);
    expect(runsOf(["X1", "2"])).toEqual(["X1", "2"]);
    expect(runsOf([])).toEqual([]);
  });
});
