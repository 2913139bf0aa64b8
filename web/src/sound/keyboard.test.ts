import { beforeEach, describe, expect, it, vi } from "vitest";

import { type AskForMidi, type KeyboardEar, Keyboards, STAND_IN, hear, messagesOf } from "./keyboard";

const ear = () => ({ note: vi.fn(), release: vi.fn(), pedal: vi.fn() }) satisfies KeyboardEar;

type FakeInput = {
  id: string;
  name: string | null;
  onmidimessage: ((event: { data: Uint8Array | null; timeStamp: number }) => void) | null;
};

function plugged(...names: string[]) {
  const inputs: FakeInput[] = names.map((name, index) => ({ id: `k${index}`, name, onmidimessage: null }));
  const access = { inputs: { values: () => inputs[Symbol.iterator]() }, onstatechange: null as (() => void) | null };
  const ask: AskForMidi = () => Promise.resolve(access);
  return { inputs, access, ask };
}

beforeEach(() => localStorage.clear());

describe("a message", () => {
  it("is a key down, a key up (also as a silent key down), or the pedal; others are left alone", () => {
    const heard = ear();
    for (const data of [
      [0x93, 60, 70],
      [0x83, 60, 0],
      [0x90, 62, 0],
      [0xb0, 64, 127],
      [0xb0, 64, 10],
      [0xb0, 7, 100],
      [0xf8],
      [0xe0, 0, 64],
    ])
      hear(data, 5, heard);
    expect(heard.note.mock.calls).toEqual([[60, 70, 5]]);
    expect(heard.release.mock.calls).toEqual([
      [60, 5],
      [62, 5],
    ]);
    expect(heard.pedal.mock.calls).toEqual([
      [true, 5],
      [false, 5],
    ]);
  });
});

describe("keyboards", () => {
  it("says so where the browser has none, and where it may not", async () => {
    const none = new Keyboards(null);
    await none.open();
    expect(none.snapshot().access).toBe("unsupported");
    const refused = new Keyboards(() => Promise.reject(new Error("no")));
    await refused.open();
    expect(refused.snapshot().access).toBe("refused");
    const later = plugged("a");
    let may = false;
    const again = new Keyboards(() => (may ? later.ask() : Promise.reject(new Error("no"))));
    await again.open();
    may = true;
    await again.open();
    expect(again.snapshot().access).toBe("open");
  });

  it("listens to the one that is chosen only, and remembers it", async () => {
    const { inputs, ask } = plugged("upright", "stage");
    const keyboards = new Keyboards(ask);
    const heard = ear();
    keyboards.listen(heard);
    await keyboards.open();
    expect(keyboards.snapshot()).toMatchObject({
      access: "open",
      chosen: "k0",
      devices: [
        { id: "k0", name: "upright" },
        { id: "k1", name: "stage" },
      ],
    });
    keyboards.choose("k1");
    expect(inputs[0]?.onmidimessage).toBeNull();
    inputs[1]?.onmidimessage?.({ data: new Uint8Array([0x90, 64, 80]), timeStamp: 12 });
    expect(heard.note).toHaveBeenCalledWith(64, 80, 12);
    expect(keyboards.snapshot().lastKey).toBe(64);
    expect(new Keyboards(ask).snapshot().chosen).toBe("k1");
  });

  it("finds what is plugged in later and lets go of what is pulled out", async () => {
    const { inputs, access, ask } = plugged();
    const keyboards = new Keyboards(ask);
    await keyboards.open();
    expect(keyboards.snapshot().devices).toEqual([]);
    inputs.push({ id: "k9", name: null, onmidimessage: null });
    access.onstatechange?.();
    expect(keyboards.snapshot().chosen).toBe("k9");
    inputs.pop();
    access.onstatechange?.();
    expect(keyboards.snapshot()).toMatchObject({ devices: [], chosen: null });
  });

  it("hears the stand-in only when it is the one chosen", () => {
    const keyboards = new Keyboards(null);
    const heard = ear();
    keyboards.listen(heard);
    keyboards.standIn([0x90, 60, 64], 1);
    keyboards.choose(STAND_IN.id);
    keyboards.standIn([0x90, 61, 64], 2);
    expect(heard.note.mock.calls).toEqual([[61, 64, 2]]);
  });
});

it("a take as messages is in order, each note with its key-up", () => {
  expect(
    messagesOf([
      { t: 1, pitch: 60, velocity: 70, released: 3 },
      { t: 2, pitch: 64, velocity: 50, released: null },
    ]),
  ).toEqual([
    { at_s: 1, data: [0x90, 60, 70] },
    { at_s: 2, data: [0x90, 64, 50] },
    { at_s: 3, data: [0x80, 60, 0] },
  ]);
});
