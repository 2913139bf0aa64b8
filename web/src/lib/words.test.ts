// @vitest-environment node
import { expect, it } from "vitest";

import { plainBpm } from "./words";

it.each([
  [53.333333333333336, "53"],
  [91.9998, "92"],
  [66.5, "66.5"],
  [120, "120"],
])("writes the tempo %d as people do: %s", (bpm, text) => expect(plainBpm(bpm)).toBe(text));
