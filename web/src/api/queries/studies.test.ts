import { expect, it } from "vitest";

import { study as old } from "../../testing/fixtures";
import type { Study } from "../client";
import { sharedStudy } from "./studies";

const copy = (): Study => structuredClone(old);

it("is the same study where nothing changed", () => {
  expect(sharedStudy(old, copy())).toBe(old);
  expect(sharedStudy(undefined, old)).toBe(old);
});

it("keeps every rung but those that changed, wherever they stand now", () => {
  const next = copy();
  next.rungs.splice(1, 1);
  const [first, second] = next.rungs.splice(0, 2);
  if (!first || !second) throw new Error("a ladder of more than three rungs");
  next.rungs.unshift(second, { ...first, is_own: !first.is_own });
  const shared = sharedStudy(old, next);
  expect(shared).toEqual(next);
  const kept = new Map(old.rungs.map((one) => [one.key, one]));
  for (const rung of shared.rungs) {
    if (rung.key === first.key) expect(rung).not.toBe(kept.get(rung.key));
    else expect(rung).toBe(kept.get(rung.key));
  }
  expect(shared.bars).toBe(old.bars);
});

it("takes what else changed", () => {
  const shared = sharedStudy(old, { ...copy(), edits: old.edits + 1 });
  expect(shared.edits).toBe(old.edits + 1);
  expect(shared.rungs).toBe(old.rungs);
});
