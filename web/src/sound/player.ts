/**
 * Plays a schedule on the Web Audio clock. The schedule comes from the server; nothing is computed here
 * but when, on this machine's clock, its zero lies. Times are seconds from the start of the count-in.
 */
import { ApiError, type Schedule } from "../api/client";

export type Sounding = {
  /** Click after the count-in too? */
  clickThrough: boolean;
  /** Which written rhythm is knocked. */
  knocks: "right" | "left" | "both" | "none";
};

type Tone = { hertz: number; decay_s: number; noise: number; level: number };

/** Clicks by accent and knocks by hand: far apart in pitch, so that each is told from the other. */
const TONES: Record<"bar" | "beat" | "division" | "right" | "left", Tone> = {
  bar: { hertz: 1900, decay_s: 0.03, noise: 0.1, level: 0.55 },
  beat: { hertz: 1420, decay_s: 0.025, noise: 0.1, level: 0.38 },
  division: { hertz: 1420, decay_s: 0.015, noise: 0.1, level: 0.16 },
  right: { hertz: 640, decay_s: 0.07, noise: 0.25, level: 0.6 },
  left: { hertz: 190, decay_s: 0.11, noise: 0.2, level: 0.85 },
};

const LEAD_S = 0.2;
const WAKE_MS = 2500;
/** What is heard lies no further than this behind what is scheduled; a reading further off is stale. */
const STALE_S = 0.6;
/** Readings of the two clocks that are kept: some seconds of frames. */
const READINGS = 301;

function middle(values: number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}

export class Player {
  private context: AudioContext | null = null;
  private out: AudioNode | null = null;
  private sources: AudioBufferSourceNode[] = [];
  private buffers = new Map<string, AudioBuffer>();
  private zero = 0;
  private offsets_s: number[] = [];
  private held = false;
  running = false;

  /** Call inside a key press or click: browsers start sound only then. */
  async wake(): Promise<void> {
    if (!this.context) {
      this.context = new AudioContext({ latencyHint: "interactive" });
      const limiter = new DynamicsCompressorNode(this.context, { threshold: -8, ratio: 12, attack: 0.001, release: 0.08 });
      limiter.connect(this.context.destination);
      this.out = limiter;
    }
    if (this.context.state === "running") return;
    const waited = new Promise<"waited">((done) => setTimeout(() => done("waited"), WAKE_MS));
    if ((await Promise.race([this.context.resume(), waited])) === "waited") {
      throw new ApiError(0, "no-sound", "This browser holds the sound back.", null, "Nothing was recorded.",
        "Press the button once more; if it stays silent, allow sound for this page.");
    }
  }

  start(schedule: Schedule, sounding: Sounding): void {
    const context = this.context;
    if (!context) throw new Error("the player sleeps");
    this.stop();
    this.zero = context.currentTime + LEAD_S;
    this.offsets_s = [];
    this.held = false;
    for (const click of schedule.clicks) {
      if (click.is_count_in || sounding.clickThrough) this.queue(click.accent, click.at_s);
    }
    for (const knock of schedule.knocks) {
      if (sounding.knocks === "both" || sounding.knocks === knock.hand) this.queue(knock.hand, knock.at_s);
    }
    this.running = true;
  }

  stop(): void {
    for (const source of this.sources) {
      source.onended = null;
      source.stop();
      source.disconnect();
    }
    this.sources = [];
    this.running = false;
  }

  /** Seconds since the count-in began, as heard now. */
  now_s(): number {
    this.sample();
    return this.at_s(performance.now());
  }

  /**
   * The same for an event's own time stamp: when it happened, not when it was handled. Single readings
   * of how the two clocks lie jitter by milliseconds, so the median of all readings since the start is
   * used: two events keep their distance exactly when they are asked about together.
   */
  at_s(timeStamp_ms: number): number {
    if (this.offsets_s.length === 0) this.sample();
    return timeStamp_ms / 1000 + middle(this.offsets_s) - this.zero;
  }

  /**
   * From now on the two clocks keep the relation they have: a take hangs on the count-in that was heard,
   * and a sound that falters afterwards must not move what is played.
   */
  hold(): void {
    this.held = true;
  }

  /** Reads how far the audio clock, as heard, lies from the page's clock. */
  private sample(): void {
    const context = this.context;
    if (!context || (this.held && this.offsets_s.length > 0)) return;
    const scheduled_s = context.currentTime - performance.now() / 1000;
    const { contextTime, performanceTime } = context.getOutputTimestamp();
    const heard_s = contextTime !== undefined && performanceTime ? contextTime - performanceTime / 1000 : scheduled_s;
    // Just after it has woken, a browser may still give the reading from before: then what is scheduled counts.
    this.offsets_s.push(Math.abs(heard_s - scheduled_s) < STALE_S ? heard_s : scheduled_s);
    if (this.offsets_s.length > READINGS) this.offsets_s.shift();
  }

  private queue(name: keyof typeof TONES, at_s: number): void {
    const context = this.context as AudioContext;
    const source = new AudioBufferSourceNode(context, { buffer: this.buffer(name) });
    source.connect(this.out as AudioNode);
    source.start(this.zero + at_s);
    this.sources.push(source);
  }

  private buffer(name: keyof typeof TONES): AudioBuffer {
    const known = this.buffers.get(name);
    if (known) return known;
    const context = this.context as AudioContext;
    const { hertz, decay_s, noise, level } = TONES[name];
    const length = Math.ceil(context.sampleRate * decay_s * 6);
    const buffer = context.createBuffer(1, length, context.sampleRate);
    const samples = buffer.getChannelData(0);
    let seed = 1;
    for (let i = 0; i < length; i++) {
      const time_s = i / context.sampleRate;
      seed = (seed * 16807) % 2147483647; // the same knock every time
      const hiss = (seed / 2147483647) * 2 - 1;
      const attack = Math.min(1, time_s / 0.0008);
      const body = Math.sin(2 * Math.PI * hertz * time_s) * (1 - noise) + hiss * noise * Math.exp(-time_s / (decay_s / 5));
      samples[i] = level * attack * body * Math.exp(-time_s / decay_s);
    }
    this.buffers.set(name, buffer);
    return buffer;
  }
}

/** Where the cursor is at a time: between the schedule's points it moves evenly. Null outside them. */
export function cursorAt(schedule: Schedule, at_s: number): number | null {
  const points = schedule.cursor;
  for (let i = 1; i < points.length; i++) {
    const [from, to] = [points[i - 1], points[i]];
    if (from && to && at_s >= from.at_s && at_s <= to.at_s) {
      const share = (at_s - from.at_s) / Math.max(1e-9, to.at_s - from.at_s);
      return from.onset_quarters + share * (to.onset_quarters - from.onset_quarters);
    }
  }
  return null;
}
