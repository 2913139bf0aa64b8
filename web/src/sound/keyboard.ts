/**
 * MIDI keyboards, and a stand-in for one. Both send the same bytes the same way, so that what is played on the stand-in
 * takes the road of a real take. Framework-free; the browser's own access is asked for only when somebody wants it.
 */
import * as z from "zod/mini";

import { keep, readStored } from "../lib/stored";

/** What the listener hears: a key down or up, or the sustaining pedal. Stamps are the page clock's, in ms. */
export type KeyboardEar = {
  note: (pitch: number, velocity: number, stamp_ms: number) => void;
  release: (pitch: number, stamp_ms: number) => void;
  pedal: (down: boolean, stamp_ms: number) => void;
};

export type Device = { id: string; name: string };

/** ``unasked``: not tried yet; ``unsupported``: this browser has no MIDI; ``refused``: it may not; ``open``: it may. */
export type Access = "unasked" | "asking" | "unsupported" | "refused" | "open";

export type KeyboardState = { access: Access; devices: Device[]; chosen: string | null; lastKey: number | null };

export const STAND_IN: Device = { id: "stand-in", name: "the stand-in" };

const CHOSEN_KEY = "laptick.keyboard";
const NOTE_OFF = 0x80;
const NOTE_ON = 0x90;
const CONTROL = 0xb0;
const PEDAL = 64;

/** On a rung that is tapped, a keyboard's two halves are the zones, as a screen's are: below middle C the left hand's. */
const MIDDLE_KEY = 60;
export const zoneOf = (pitch: number): "left" | "right" => (pitch < MIDDLE_KEY ? "left" : "right");

type Input = {
  id: string;
  name: string | null;
  onmidimessage: ((event: { data: Uint8Array | null; timeStamp: number }) => void) | null;
};
type MidiAccess = { inputs: { values: () => Iterable<Input> }; onstatechange: (() => void) | null };
export type AskForMidi = () => Promise<MidiAccess>;

/** One message of a keyboard: what it means, to the ear. Anything else is left alone. */
export function hear(data: ArrayLike<number>, stamp_ms: number, ear: KeyboardEar): void {
  const [status = 0, first = 0, second = 0] = [data[0], data[1], data[2]];
  const kind = status & 0xf0;
  if (kind === NOTE_ON && second > 0) ear.note(first, second, stamp_ms);
  else if (kind === NOTE_OFF || kind === NOTE_ON) ear.release(first, stamp_ms);
  else if (kind === CONTROL && first === PEDAL) ear.pedal(second >= 64, stamp_ms);
}

function browserMidi(): AskForMidi | null {
  const ask = (navigator as { requestMIDIAccess?: (options: { sysex: boolean }) => Promise<unknown> })
    .requestMIDIAccess;
  return ask ? () => ask.call(navigator, { sysex: false }) as Promise<MidiAccess> : null;
}

export class Keyboards {
  private state: KeyboardState = {
    access: "unasked",
    devices: [],
    chosen: readStored(CHOSEN_KEY, z.string()),
    lastKey: null,
  };
  private listeners = new Set<() => void>();
  private midi: MidiAccess | null = null;
  private ear: KeyboardEar | null = null;

  constructor(private readonly askForMidi: AskForMidi | null = browserMidi()) {}

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = (): KeyboardState => this.state;

  listen(ear: KeyboardEar): void {
    this.ear = ear;
  }

  /** Another ear hears instead, until what is given back is called. */
  lend(ear: KeyboardEar): () => void {
    const own = this.ear;
    this.ear = ear;
    return () => {
      if (this.ear === ear) this.ear = own;
    };
  }

  /** Asks the browser; what is plugged in later turns up by itself. */
  async open(): Promise<void> {
    if (this.state.access === "open" || this.state.access === "asking") return;
    if (!this.askForMidi) {
      this.set({ access: "unsupported" });
      return;
    }
    this.set({ access: "asking" });
    try {
      this.midi = await this.askForMidi();
    } catch {
      this.set({ access: "refused" });
      return;
    }
    this.midi.onstatechange = () => this.look();
    this.set({ access: "open" });
    this.look();
  }

  choose(id: string): void {
    keep(CHOSEN_KEY, id); // remembering is a comfort: without storage it is chosen again
    this.set({ chosen: id });
    this.connect();
  }

  /** A message of the stand-in, as a keyboard would send it. */
  standIn(data: readonly number[], stamp_ms: number): void {
    if (this.state.chosen === STAND_IN.id) this.hear(data, stamp_ms);
  }

  private look(): void {
    const devices = [...(this.midi?.inputs.values() ?? [])].map(({ id, name }) => ({
      id,
      name: name ?? "a keyboard without a name",
    }));
    const known = this.state.chosen === STAND_IN.id || devices.some((one) => one.id === this.state.chosen);
    this.set({ devices, chosen: known ? this.state.chosen : (devices[0]?.id ?? null) });
    this.connect();
  }

  private connect(): void {
    for (const input of this.midi?.inputs.values() ?? []) {
      input.onmidimessage =
        input.id === this.state.chosen
          ? (event) => {
              if (event.data) this.hear(event.data, event.timeStamp);
            }
          : null;
    }
  }

  private hear(data: ArrayLike<number>, stamp_ms: number): void {
    const ear: KeyboardEar = {
      note: (pitch, velocity, stamp) => {
        this.set({ lastKey: pitch });
        this.ear?.note(pitch, velocity, stamp);
      },
      release: (pitch, stamp) => this.ear?.release(pitch, stamp),
      pedal: (down, stamp) => this.ear?.pedal(down, stamp),
    };
    hear(data, stamp_ms, ear);
  }

  private set(part: Partial<KeyboardState>): void {
    this.state = { ...this.state, ...part };
    for (const listener of this.listeners) listener();
  }
}

export type StandInNote = { t: number; pitch: number; velocity: number; released: number | null };

/** The bytes that a take is on a keyboard, each with its time in seconds, in order. */
export function messagesOf(notes: readonly StandInNote[]): { at_s: number; data: readonly number[] }[] {
  return notes
    .flatMap((note) => [
      { at_s: note.t, data: [NOTE_ON, note.pitch, note.velocity] },
      ...(note.released === null ? [] : [{ at_s: note.released, data: [NOTE_OFF, note.pitch, 0] }]),
    ])
    .sort((a, b) => a.at_s - b.at_s);
}
