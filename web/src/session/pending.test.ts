import { beforeEach, expect, it } from "vitest";

import type { TakeCreate } from "../api/client";
import { forgetPending, keepPending, newClientKey, pendingTakes } from "./pending";

const take = (client_key: string): TakeCreate => ({
  activity: "lap", bpm: 60, hands: "both", times_round: 1, taps: [{ t: 4 }], notes: [], pedal: [], stand_in: false, client_key,
}); // prettier-ignore

beforeEach(() => localStorage.clear());

it("keeps a take once, until it is forgotten", () => {
  keepPending({ pieceId: 7, take: take("a") });
  keepPending({ pieceId: 7, take: take("b") });
  keepPending({ pieceId: 7, take: take("a") });
  expect(pendingTakes().map((one) => one.take.client_key)).toEqual(["b", "a"]);
  forgetPending("b");
  expect(pendingTakes().map((one) => one.take.client_key)).toEqual(["a"]);
});

it("passes over what is damaged, and leaves it where it is", () => {
  localStorage.setItem("laptick.pending-takes", JSON.stringify([{ pieceId: 7, take: { activity: "lap" } }, 4]));
  expect(pendingTakes()).toEqual([]);
  keepPending({ pieceId: 7, take: take("a") });
  expect(pendingTakes()).toHaveLength(1);
  expect(JSON.parse(localStorage.getItem("laptick.pending-takes") ?? "")).toHaveLength(3);
});

it("makes keys that differ", () => {
  expect(new Set(Array.from({ length: 50 }, newClientKey)).size).toBe(50);
});
