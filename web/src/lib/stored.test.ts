import * as z from "zod/mini";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { forget, keep, readParts, readStored } from "./stored";

beforeEach(() => localStorage.clear());

const START = { bpm: 60, hand: "both" };
const SCHEMAS = { bpm: z.number().check(z.minimum(20), z.maximum(400)), hand: z.enum(["left", "right", "both"]) };

describe("what this device remembers", () => {
  it("comes back as it was kept, and can be forgotten", () => {
    expect(keep("a", { x: 1 })).toBe(true);
    expect(readStored("a", z.object({ x: z.number() }))).toEqual({ x: 1 });
    forget("a");
    expect(readStored("a", z.object({ x: z.number() }))).toBeNull();
  });

  it.each(["", "{", "null", "7", '"x"', "[1]", '{"x":"1"}'])("is not there when it reads %j", (text) => {
    localStorage.setItem("a", text);
    expect(readStored("a", z.object({ x: z.number() }))).toBeNull();
  });

  it("loses only the parts that are damaged", () => {
    localStorage.setItem("a", '{"bpm": "fast", "hand": "left", "more": 1}');
    expect(readParts("a", SCHEMAS, START)).toEqual({ bpm: 60, hand: "left" });
    localStorage.setItem("a", '{"bpm": 1e9}');
    expect(readParts("a", SCHEMAS, START)).toEqual(START);
    localStorage.setItem("a", "[");
    expect(readParts("a", SCHEMAS, START)).toEqual(START);
  });

  it("is not kept where there is no room, and that is said", () => {
    const full = vi.spyOn(Storage.prototype, "setItem").mockImplementation(() => {
      throw new DOMException("full", "QuotaExceededError");
    });
    expect(keep("a", 1)).toBe(false);
    full.mockRestore();
  });
});
