/** What comes in while a take is recorded or somebody listens: taps, keys with their key-ups, the pedal, marked slips. */
import type { TakeCreate } from "../api/client";
import { zoneOf } from "../sound/keyboard";

type Hand = "right" | "left";
type Key = { stamp_ms: number; pitch: number; velocity: number; released_ms: number | null };

/** A time stamp of the browser as seconds on the take's clock. */
type ClockOf = (stamp_ms: number) => number;

export class Played {
  private taps: { stamp_ms: number; hand: Hand }[] = [];
  private keys: Key[] = [];
  private pedals: { stamp_ms: number; down: boolean }[] = [];
  private slips: number[] = [];

  /** ``byKeys``: a key is a note; otherwise it is a tap of its half of the keyboard. */
  constructor(readonly byKeys: boolean) {}

  /** Strikes so far; of a listening, slips. */
  get count(): number {
    return Math.max(this.taps.length, this.keys.length, this.slips.length);
  }

  get last_pitch(): number | null {
    return this.keys.at(-1)?.pitch ?? null;
  }

  get last_ms(): number | undefined {
    return (this.taps.at(-1) ?? this.keys.at(-1))?.stamp_ms;
  }

  tap(hand: Hand, stamp_ms: number): void {
    this.taps.push({ stamp_ms, hand });
  }

  note(pitch: number, velocity: number, stamp_ms: number): void {
    if (this.byKeys) this.keys.push({ stamp_ms, pitch, velocity, released_ms: null });
    else this.tap(zoneOf(pitch), stamp_ms);
  }

  release(pitch: number, stamp_ms: number): void {
    const key = this.keys.findLast((one) => one.pitch === pitch && one.released_ms === null);
    if (key) key.released_ms = stamp_ms;
  }

  pedal(down: boolean, stamp_ms: number): void {
    this.pedals.push({ stamp_ms, down });
  }

  slip(stamp_ms: number): void {
    this.slips.push(stamp_ms);
  }

  /** As a take has it, or null where nothing was struck. All stamps are turned into the take's time together, so that
   * they keep their distances. */
  strikes(at_s: ClockOf): Pick<TakeCreate, "taps" | "notes" | "pedal"> | null {
    const taps = this.taps.map(({ stamp_ms, hand }) => ({ t: at_s(stamp_ms), hand }));
    const notes = this.keys.map((key) => ({
      t: at_s(key.stamp_ms),
      pitch: key.pitch,
      velocity: key.velocity,
      released: key.released_ms === null ? null : Math.max(0, at_s(key.released_ms)),
    }));
    const pedal = this.pedals.map(({ stamp_ms, down }) => ({ t: Math.max(0, at_s(stamp_ms)), down }));
    const struck = inOrder(notes);
    if (struck.length) return { taps: [], notes: struck, pedal };
    const tapped = inOrder(taps);
    return tapped.length ? { taps: tapped, notes: [], pedal: [] } : null;
  }

  slips_s(at_s: ClockOf): number[] {
    return this.slips.map(at_s).filter((slip_s) => slip_s >= 0);
  }
}

function inOrder<T extends { t: number }>(strikes: T[]): T[] {
  return strikes.filter((one) => one.t >= 0).sort((a, b) => a.t - b.t);
}
