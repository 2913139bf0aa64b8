/** What a microphone hears now, without the sound itself: how loud the room is and how loud the playing. */

/** ``deaf``: not even a room is heard; ``waiting``: nothing was played yet. */
export type Loudness = "deaf" | "waiting" | "too-quiet" | "good" | "clipping";

export type Heard = { loudness: Loudness; isRoomLoud: boolean; level: number };

/** A moment's loudest sample and root mean square, of full scale. */
export type Moment = { peak: number; rms: number; clipped: boolean };

/** So far back the loudest is remembered, and the room is looked for. */
const LOUDEST_MS = 4000;
const ROOM_MS = 8000;
/** Below these shares of full scale: no microphone at all; a recording that is too quiet for small recorders. */
const DEAF = 1e-5;
const QUIET = 0.04;
/** A room that takes this much of full scale covers soft playing. */
const LOUD_ROOM = 0.02;
/** Playing stands out of the room by this much. */
const OVER_ROOM = 3;

type Kept = Moment & { at_ms: number };

export class LevelMeter {
  private moments: Kept[] = [];
  private held: number | null = null;

  hear(at_ms: number, moment: Moment): void {
    this.moments.push({ ...moment, at_ms });
    while (this.moments[0] && this.moments[0].at_ms < at_ms - ROOM_MS) this.moments.shift();
  }

  /** The room stays what it is now: what sounds from here on is playing. */
  begin(): void {
    this.held = null;
    this.held = this.room();
  }

  /** The room is looked for again. */
  end(): void {
    this.held = null;
  }

  /** The quietest tenth of what was heard of late. */
  room(): number {
    if (this.held !== null) return this.held;
    const levels = this.moments.map((one) => one.rms).sort((a, b) => a - b);
    return Math.max(levels[Math.floor(levels.length / 10)] ?? 0, 1e-6);
  }

  heard(): Heard {
    const now = this.moments.at(-1)?.at_ms ?? 0;
    const late = this.moments.filter((one) => one.at_ms > now - LOUDEST_MS);
    const peak = Math.max(0, ...late.map((one) => one.peak));
    const room = this.room();
    const level = Math.min(1, Math.max(0, 1 + Math.log10(Math.max(1e-6, this.moments.at(-1)?.rms ?? 0)) / 3));
    return { loudness: loudnessOf(late, peak, room), isRoomLoud: room > LOUD_ROOM, level };
  }
}

function loudnessOf(late: readonly Kept[], peak: number, room: number): Loudness {
  if (peak < DEAF) return "deaf";
  if (late.some((one) => one.clipped)) return "clipping";
  const loudest = Math.max(0, ...late.map((one) => one.rms));
  if (loudest < OVER_ROOM * room) return "waiting";
  return peak < QUIET ? "too-quiet" : "good";
}

/** Of samples from −1 to 1. Three in a row at full scale are cut off. */
export function momentOf(samples: Float32Array): Moment {
  let [peak, power, full, clipped] = [0, 0, 0, false];
  for (const sample of samples) {
    const size = Math.abs(sample);
    if (size > peak) peak = size;
    power += sample * sample;
    full = size >= 0.985 ? full + 1 : 0;
    if (full >= 3) clipped = true;
  }
  return { peak, rms: Math.sqrt(power / Math.max(1, samples.length)), clipped };
}
