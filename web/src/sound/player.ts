/**
 * Plays a schedule on the Web Audio clock. The schedule comes from the server; nothing is computed here
 * but when, on this machine's clock, its zero lies. Times are seconds from the start of the count-in.
 */
import type { Schedule } from "../api/client";

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

export class Player {
  private context: AudioContext | null = null;
  private out: AudioNode | null = null;
  private sources: AudioBufferSourceNode[] = [];
  private buffers = new Map<string, AudioBuffer>();
  private zero = 0;
  running = false;

  /** Call inside a key press or click: browsers start sound only then. */
  async wake(): Promise<void> {
    if (!this.context) {
      this.context = new AudioContext({ latencyHint: "interactive" });
      const limiter = new DynamicsCompressorNode(this.context, { threshold: -8, ratio: 12, attack: 0.001, release: 0.08 });
      limiter.connect(this.context.destination);
      this.out = limiter;
    }
    if (this.context.state !== "running") await this.context.resume();
  }

  start(schedule: Schedule, sounding: Sounding): void {
    const context = this.context;
    if (!context) throw new Error("the player sleeps");
    this.stop();
    this.zero = context.currentTime + LEAD_S;
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
    return this.at_s(performance.now());
  }

  /** The same for an event's own time stamp: when it happened, not when it was handled. */
  at_s(timeStamp_ms: number): number {
    const context = this.context;
    if (!context) return 0;
    const heard = context.getOutputTimestamp();
    const known = heard.contextTime !== undefined && heard.performanceTime !== undefined && heard.performanceTime > 0;
    const contextTime_s = known
      ? (heard.contextTime as number) + (timeStamp_ms - (heard.performanceTime as number)) / 1000
      : context.currentTime + (timeStamp_ms - performance.now()) / 1000;
    return contextTime_s - this.zero;
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
