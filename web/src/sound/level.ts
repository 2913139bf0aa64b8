/** What a microphone hears now, without the sound itself: how loud the room is, how loud the playing, and its strikes. */

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
/** Playing stands out of the room by this much; a strike rises by so much over so long before. */
const OVER_ROOM = 3;
const RISE = 1.7;
const BEFORE_MS = 70;
const AGAIN_MS = 90;
const FED_MS = 1000;

type Kept = Moment & { at_ms: number };

export class LevelMeter {
  private moments: Kept[] = [];
  private struck: number[] = [];

  hear(at_ms: number, moment: Moment): void {
    const last = this.struck.at(-1) ?? -Infinity;
    const before = this.moments.findLast((one) => one.at_ms <= at_ms - BEFORE_MS);
    const rises = before !== undefined && moment.rms > RISE * before.rms && moment.rms > OVER_ROOM * this.room();
    this.moments.push({ ...moment, at_ms });
    while (this.moments[0] && this.moments[0].at_ms < at_ms - ROOM_MS) this.moments.shift();
    if (rises && at_ms - last > AGAIN_MS) this.struck.push(at_ms);
  }

  /** From now on strikes are counted anew. */
  begin(): void {
    this.struck = [];
  }

  get strikes(): { count: number; last_ms: number | undefined } {
    return { count: this.struck.length, last_ms: this.struck.at(-1) };
  }

  /** Whether it is told of the sound just now; some browsers hold that back. */
  isFed(now_ms: number): boolean {
    return now_ms - (this.moments.at(-1)?.at_ms ?? -Infinity) < FED_MS;
  }

  /** The quietest tenth of what was heard of late. */
  room(): number {
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
