// @vitest-environment node
import { describe, expect, it } from "vitest";

import { type Typing, begin, filled, lengthOf, press, ticksOf, trimmed } from "./typing";

const WALTZ = () => 3 * 48;
const type = (keys: string, start: Typing = begin([])) =>
  keys.split(" ").reduce((now, key) => press(now, key === "_" ? " " : key, WALTZ), start);
const shown = (typing: Typing, hand: "right" | "left" = "right") =>
  typing.bars
    .map((bar) =>
      bar[hand]
        .map((e) => `${e.is_rest ? "r" : e.pitches.join("+") || "x"}:${e.length}${e.is_tied ? "~" : ""}`)
        .join(" "),
    )
    .join(" | ");

describe("lengths", () => {
  it("are exact fractions of a quarter", () => {
    expect(["4", "3", "1", "3/4", "1/2", "1/3", "1/4", "1/6"].map(ticksOf)).toEqual([192, 144, 48, 36, 24, 16, 12, 8]);
    for (const length of ["4", "3/2", "1/3", "2/3", "1/8", "3/8"]) expect(lengthOf(ticksOf(length))).toBe(length);
  });
});

describe("typing", () => {
  it("goes on to the next bar when one is full, and begins bars as they are needed", () => {
    const typing = type("4 c d e 2 f 4 r");
    expect(shown(typing)).toBe("C5:1 D5:1 E5:1 | F5:2 r:1");
    expect(typing.at).toEqual({ bar: 2, hand: "right", index: 0 });
  });
  it("writes a rhythm without keys", () => expect(shown(type("8 x _ 4 x r"))).toBe("x:1/2 x:1/2 x:1 r:1"));
  it("takes each letter at the place nearest to the note before", () =>
    expect(shown(type("8 c g b c d a"))).toBe("C5:1/2 G4:1/2 B4:1/2 C5:1/2 D5:1/2 A4:1/2"));
  it("writes chords upwards", () => expect(shown(type("h 4 c e G e G B"), "left")).toBe("C3:1 E3+G3:1 E3+G3+B3:1"));
  it("dots and undots the note before, and finds its place again", () => {
    expect(shown(type("4 c . 8 d 4 e"))).toBe("C5:3/2 D5:1/2 E5:1");
    expect(type("2 c .").at).toEqual({ bar: 1, hand: "right", index: 0 });
    expect(type("2 c . .").at).toEqual({ bar: 0, hand: "right", index: 1 });
    expect(shown(type("2 c . ."))).toBe("C5:2");
  });
  it("writes three notes of a triplet and then plain ones", () =>
    expect(shown(type("8 3 c d e 4 f g"))).toBe("C5:1/3 D5:1/3 E5:1/3 F5:1 G5:1"));
  it("ties over a bar line", () => expect(shown(type("2 c . t 4 c"))).toBe("C5:3~ | C5:1"));
  it("does the same again", () => {
    const typing = type("h 4 c e G e G = =");
    expect(shown(typing, "left")).toBe("C3:1 E3+G3:1 E3+G3:1 | C3:1 E3+G3:1 E3+G3:1 | C3:1 E3+G3:1 E3+G3:1");
    expect(typing.at.bar).toBe(3);
  });
  it("takes notes back over the bar line, and in the middle", () => {
    expect(shown(type("4 c d e f Backspace Backspace"))).toBe("C5:1 D5:1 | ");
    expect(shown(type("4 c d ArrowLeft ArrowLeft Delete"))).toBe("D5:1");
  });
  it("keeps a bar that is too long", () => {
    const typing = type("4 c d ArrowLeft 2 f");
    expect(shown(typing)).toBe("C5:1 F5:2 D5:1");
    expect(filled(typing.bars[0]?.right ?? [])).toBeGreaterThan(WALTZ());
  });
  it("moves a note by half steps and octaves, spelled by the way it goes", () => {
    expect(shown(type("4 f ArrowUp"))).toBe("F♯5:1");
    expect(shown(type("4 b ArrowDown"))).toBe("B♭4:1");
    expect(shown(type("4 b ArrowUp"))).toBe("C5:1");
    expect(shown(type("4 c PageDown"))).toBe("C4:1");
  });
  it("stores no empty bars at the end", () => {
    expect(trimmed(type("4 c d e f Backspace").bars)).toHaveLength(1);
    expect(trimmed([])).toEqual([{ right: [], left: [] }]);
    expect(trimmed(type("Enter Enter 4 c").bars)).toHaveLength(1);
  });
  it("leaves a bar unfinished when asked to go on", () => expect(shown(type("4 c Enter 4 d"))).toBe("C5:1 | D5:1"));
});

describe("eight bars of a waltz", () => {
  // Left: bass, chord, chord; right: quarters, eighths, a triplet and a tie.
  const RIGHT = "4 e g c 8 b a 4 g e 2 f 4 d 2 e . 4 e g c 8 3 d c b 4 a f 2 d . t d .";
  it("takes fewer than 2.2 keys a note", () => {
    const right = RIGHT.split(" ");
    const left = [
      "h",
      "Home",
      "4",
      ..."c e G e G".split(" "),
      "=",
      ..."g b D b D".split(" "),
      "c",
      "e",
      "G",
      "e",
      "G",
      "=",
      ..."f a C a C".split(" "),
      ..."g b D b D".split(" "),
      "=",
    ];
    const typing = [...right, ...left].reduce((now, key) => press(now, key, WALTZ), begin([]));
    const notes = typing.bars
      .flatMap((bar) => [...bar.right, ...bar.left])
      .reduce((sum, event) => sum + (event.is_rest ? 0 : Math.max(1, event.pitches.length)), 0);
    expect(typing.bars.length).toBe(8);
    for (const bar of typing.bars)
      for (const hand of ["right", "left"] as const) expect(filled(bar[hand])).toBe(WALTZ());
    expect((right.length + left.length) / notes).toBeLessThan(2.2);
    expect(notes).toBeGreaterThan(50);
  });
});
