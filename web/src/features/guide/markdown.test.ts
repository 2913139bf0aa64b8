// @vitest-environment node
import { describe, expect, it } from "vitest";

import lesson from "../../../../docs/first-lesson.md?raw";
import parent from "../../../../docs/for-a-parent.md?raw";
import { blocksOf, inlinesOf } from "./markdown";

describe("what guides are written in", () => {
  it.each([
    ["plain", [{ kind: "plain", words: "plain" }]],
    [
      "see *Count*, **now**",
      [
        { kind: "plain", words: "see " },
        { kind: "name", words: "Count" },
        { kind: "plain", words: ", " },
        { kind: "bold", words: "now" },
      ],
    ],
    ["`R`", [{ kind: "code", words: "R" }]],
    ["2 * 3", [{ kind: "plain", words: "2 * 3" }]],
  ])("%s", (text, told) => {
    expect(inlinesOf(text)).toEqual(told);
  });

  it("tells blocks apart, and lines from the ends of lines", () => {
    expect(blocksOf("# A\n\none\ntwo\n\n1. a\nb\n2. c\n\n![words](x/y.png)\n")).toEqual([
      { kind: "heading", depth: 1, words: "A" },
      { kind: "paragraph", words: [{ kind: "plain", words: "one two" }] },
      { kind: "list", items: [[{ kind: "plain", words: "a b" }], [{ kind: "plain", words: "c" }]] },
      { kind: "picture", words: "words", file: "y.png" },
    ]);
  });

  it("is all that ours are written in", () => {
    for (const text of [lesson, parent]) {
      const left = blocksOf(text).flatMap((block) => {
        if (block.kind === "list") return block.items.flat();
        return block.kind === "paragraph" ? block.words : [];
      });
      expect(left.filter((one) => one.kind === "plain" && /[*`#[\]]/.test(one.words))).toEqual([]);
    }
  });

  it("has ten sentences for a parent", () => {
    const list = blocksOf(parent).find((block) => block.kind === "list");
    expect(list?.kind === "list" ? list.items.length : 0).toBe(10);
  });
});
