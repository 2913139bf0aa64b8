// @vitest-environment node
import { describe, expect, it } from "vitest";

import { orderOf, runsOf } from "./stretches";

describe("playing order in one line", () => {
  it("joins bars that go on, and begins anew at every jump", () => {
    expect(runsOf(["1", "2", "1", "2", "3"])).toEqual(["1–2", "1–3"]);
    expect(runsOf(["0", "1", "3"])).toEqual(["0–1", "3"]);
    expect(runsOf(["X1", "2"])).toEqual(["X1", "2"]);
    expect(runsOf([])).toEqual([]);
  });
});

describe("a playing order that is typed", () => {
  const names = ["0", "1", "2", "3", "X1", "4"];
  it("goes through stretches as they are written", () => {
    expect(orderOf("0-2, 1–2 · 4", names)).toEqual({ order: ["0", "1", "2", "1", "2", "4"] });
    expect(orderOf("3-4", names)).toEqual({ order: ["3", "X1", "4"] });
  });
  it("is read back from what is shown", () => {
    const order = ["1", "2", "1", "2", "3"];
    expect(orderOf(runsOf(order).join(" · "), names)).toEqual({ order });
  });
  it("says what is wrong", () => {
    expect(orderOf("1-9", names)).toEqual({ problem: "There is no bar “9” in this piece." });
    expect(orderOf("3-1", names)).toHaveProperty("problem");
    expect(orderOf(" ", names)).toHaveProperty("problem");
  });
});
