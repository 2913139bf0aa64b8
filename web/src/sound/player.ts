/**
 * Plays a schedule on the Web Audio clock. The schedule comes from the server; nothing is computed here but when, on this
 * machine's clock, its zero lies. Times are seconds from the start of the count-in.
 *
 * Sounds are handed to the audio thread some seconds ahead, so that a busy page, or one in the background, delays
 * nothing. A meter in the audio thread hears each click as it is rendered; `exactness` compares it with the schedule.
 */
import { ApiError, type Schedule } from "../api/client";
import { ClickMeasure, type Exactness } from "./exactness";
import { type Mix, type Track, gainOf } from "./mix";
import { SampleStore } from "./samples";
import meterUrl from "./meter.worklet.js?url&no-inline";

export type Sound = Schedule["sounds"][number];

export type Sounding = {
  mix: Mix;
  /** Which sounds of the schedule are played at all; all of them if left out. */
  only?: (sound: Sound) => boolean;
};

const LEAD_S = 0.25;
/** Browsers slow the timers of a page in the background down to one a second. */
const AHEAD_S = 2.5;
const PUMP_MS = 200;
const WAKE_MS = 2500;
/** Between two phrases. */
const PHRASE_GAP_S = 0.06;
/** The limiter looks ahead by this much and so delays everything alike (Web Audio API, DynamicsCompressorNode). */
export const LIMITER_S = 0.006;
/** What is heard lies no further than this behind what is scheduled; a reading further off is stale. */
const STALE_S = 0.6;
/** Readings of the two clocks that are kept: some seconds of frames. */
const READINGS = 301;
/** A change of level is smoothed over this, so that it does not click. */
const SMOOTH_S = 0.015;

function middle(values: number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}

type Live = { source: AudioScheduledSourceNode; out: GainNode };

export class Player {
  private context: AudioContext | null = null;
  private out: GainNode | null = null;
  private meter: AudioWorkletNode | null = null;
  private store: SampleStore | null = null;
  private tracks = new Map<Track, GainNode>();
  private live = new Set<Live>();
  private waves = new Map<string, PeriodicWave>();
  private files = new Map<string, AudioBuffer>();
  private pumping: ReturnType<typeof setInterval> | undefined;
  private next = 0;
  private schedule: Schedule | null = null;
  private sounding: Sounding | null = null;
  private zero = 0;
  private offsets_s: number[] = [];
  private held = false;
  private measure = new ClickMeasure();
  private speech = 0; // every saying and every stop ends what is being said
  running = false;

  /** Call inside a key press or click: browsers start sound only then. */
  async wake(): Promise<void> {
    if (!this.context) {
      this.context = new AudioContext({ latencyHint: "interactive" });
      const limiter = new DynamicsCompressorNode(this.context, {
        threshold: -6,
        knee: 0,
        ratio: 20,
        attack: 0.001,
        release: 0.08,
      });
      this.out = new GainNode(this.context, { gain: 0 });
      this.out.connect(limiter).connect(this.context.destination);
      this.store = new SampleStore(this.context);
    }
    if (this.context.state !== "running") {
      const waited = new Promise<"waited">((done) => setTimeout(() => done("waited"), WAKE_MS));
      if ((await Promise.race([this.context.resume(), waited])) === "waited") {
        throw new ApiError(
          0,
          "no-sound",
          "This browser holds the sound back.",
          null,
          "Nothing was recorded.",
          "Press the button once more; if it stays silent, allow sound for this page.",
        );
      }
    }
    await this.listen(this.context);
  }

  /** The samples of a schedule, ready to be played. */
  async load(schedule: Schedule): Promise<void> {
    if (!this.store) throw new Error("the player sleeps");
    for (const [file, buffer] of await this.store.load(schedule)) this.files.set(file, buffer);
  }

  start(schedule: Schedule, sounding: Sounding): void {
    const context = this.context;
    if (!context) throw new Error("the player sleeps");
    this.stop();
    this.zero = context.currentTime + LEAD_S;
    this.offsets_s = [];
    this.held = false;
    this.schedule = schedule;
    this.sounding = sounding;
    this.next = 0;
    this.measure = new ClickMeasure();
    this.running = true;
    this.level(sounding.mix);
    this.pump();
    this.pumping = setInterval(() => this.pump(), PUMP_MS);
  }

  stop(): void {
    this.speech += 1;
    clearInterval(this.pumping);
    for (const { source, out } of this.live) {
      source.onended = null;
      source.stop();
      out.disconnect();
    }
    this.live.clear();
    this.running = false;
  }

  /** Says phrases one after the other, each as a file: the first one as soon as it is there, while the others come;
   * resolves when the last was said. */
  async say(files: readonly string[], volume: number, onStart?: () => void): Promise<void> {
    const { context, store, out } = this;
    if (!context || !store || !out) throw new Error("the player sleeps");
    const coming = files.map((file) => store.all([file]));
    for (const one of coming) one.catch(() => undefined); // told below, when its turn comes
    const mine = ++this.speech;
    let at = context.currentTime;
    let last = Promise.resolve();
    for (const [index, one] of coming.entries()) {
      const [buffer] = await one;
      if (mine !== this.speech || !buffer) return;
      if (index === 0) {
        out.gain.setTargetAtTime(volume, context.currentTime, SMOOTH_S);
        onStart?.();
      }
      at = Math.max(at, context.currentTime);
      last = this.sayOne(buffer, context, out, at);
      at += buffer.duration + PHRASE_GAP_S;
    }
    // Where it is stopped, or the sound is held back, nothing waits for it.
    const longest_ms = (at - context.currentTime) * 1000 + 300;
    await Promise.race([last, new Promise<void>((done) => setTimeout(done, longest_ms))]);
  }

  private sayOne(buffer: AudioBuffer, context: AudioContext, to: AudioNode, at: number): Promise<void> {
    const out = new GainNode(context, { gain: 1 });
    const source = new AudioBufferSourceNode(context, { buffer });
    source.connect(out).connect(to);
    source.start(at);
    const one = { source, out };
    this.live.add(one);
    return new Promise((done) => {
      source.onended = () => {
        this.live.delete(one);
        done();
      };
    });
  }

  /** Fetches what will be said; what cannot be fetched now is asked for again then. */
  prepare(files: readonly string[]): void {
    this.store?.all(files).catch(() => undefined);
  }

  /** Other levels, at once. */
  level(mix: Mix): void {
    const context = this.context;
    if (!context || !this.out) return;
    if (this.sounding) this.sounding = { ...this.sounding, mix };
    this.out.gain.setTargetAtTime(mix.volume, context.currentTime, SMOOTH_S);
    for (const [track, node] of this.tracks)
      node.gain.setTargetAtTime(gainOf(mix, track), context.currentTime, SMOOTH_S);
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
    return timeStamp_ms / 1000 + middle(this.offsets_s) - this.zero - LIMITER_S;
  }

  /**
   * From now on the two clocks keep the relation they have: a take hangs on the count-in that was heard,
   * and a sound that falters afterwards must not move what is played.
   */
  hold(): void {
    this.held = true;
  }

  /** How far the clicks rendered so far lie from where the schedule has them. */
  exactness(): Exactness {
    return this.measure.result();
  }

  /** Reads how far the audio clock, as heard, lies from the page's clock. */
  private sample(): void {
    const context = this.context;
    if (!context) return;
    const scheduled_s = context.currentTime - performance.now() / 1000;
    const { contextTime, performanceTime } = context.getOutputTimestamp();
    const heard_s = contextTime !== undefined && performanceTime ? contextTime - performanceTime / 1000 : scheduled_s;
    // Just after it has woken, a browser may still give the reading from before: then what is scheduled counts.
    const offset_s = Math.abs(heard_s - scheduled_s) < STALE_S ? heard_s : scheduled_s;
    this.measure.clocks(performance.now() / 1000, offset_s);
    if (this.held && this.offsets_s.length > 0) return;
    this.offsets_s.push(offset_s);
    if (this.offsets_s.length > READINGS) this.offsets_s.shift();
  }

  /** Hands the next seconds to the audio thread. */
  private pump(): void {
    const { context, schedule, sounding } = this;
    if (!context || !schedule || !sounding) return;
    const until = context.currentTime + AHEAD_S - this.zero;
    for (; this.next < schedule.sounds.length; this.next++) {
      const sound = schedule.sounds[this.next];
      if (!sound || sound.at_s > until) break;
      if (!sounding.only || sounding.only(sound)) this.queue(context, schedule, sound);
    }
  }

  private queue(context: AudioContext, schedule: Schedule, sound: Sound): void {
    const out = new GainNode(context, { gain: sound.level });
    out.connect(this.track(context, sound.track));
    const source = sound.sound.startsWith("tone:")
      ? this.tone(context, schedule, sound, out)
      : this.sampled(context, schedule, sound, out);
    if (!source) return;
    if (sound.track === "click" && this.meter) {
      source.connect(this.meter);
      this.measure.expect(this.zero + sound.at_s);
    }
    const one = { source, out };
    this.live.add(one);
    source.onended = () => {
      out.disconnect();
      this.live.delete(one);
    };
  }

  private sampled(
    context: AudioContext,
    schedule: Schedule,
    sound: Sound,
    out: GainNode,
  ): AudioBufferSourceNode | null {
    const sample = schedule.samples[sound.sound];
    const buffer = sample && this.files.get(sample.file);
    if (!buffer) return null;
    const source = new AudioBufferSourceNode(context, { buffer });
    source.connect(out);
    // A word begins before its beat, its vowel on it.
    source.start(Math.max(0, this.zero + sound.at_s - sample.beat_s), sample.start_s, sample.length_s);
    return source;
  }

  private tone(context: AudioContext, schedule: Schedule, sound: Sound, out: GainNode): OscillatorNode | null {
    const { tone } = schedule;
    const pitch = tone.pitches[sound.sound];
    if (!pitch) return null;
    const begin = this.zero + sound.at_s;
    const end = begin + sound.length_s;
    const key = tone.partials.join(" ");
    const wave =
      this.waves.get(key) ??
      context.createPeriodicWave([0, ...tone.partials.map(() => 0)], [0, ...tone.partials], {
        disableNormalization: true,
      });
    this.waves.set(key, wave);
    const source = new OscillatorNode(context, { frequency: pitch.hertz });
    source.setPeriodicWave(wave);
    const level = out.gain;
    level.value = 0;
    level.setValueAtTime(0, begin);
    level.linearRampToValueAtTime(tone.level * sound.level, begin + 0.004);
    level.setTargetAtTime(0, begin + 0.004, pitch.decay_s);
    level.setTargetAtTime(0, end, tone.release_s);
    source.connect(out);
    source.start(begin);
    source.stop(end + 6 * tone.release_s);
    return source;
  }

  private track(context: AudioContext, track: Track): GainNode {
    const known = this.tracks.get(track);
    if (known) return known;
    const gain = this.sounding ? gainOf(this.sounding.mix, track) : 1;
    const node = new GainNode(context, { gain });
    node.connect(this.out as GainNode);
    this.tracks.set(track, node);
    return node;
  }

  /** The meter in the audio thread. Without it everything plays; only the measure is missing. */
  private async listen(context: AudioContext): Promise<void> {
    if (this.meter || !("audioWorklet" in context)) return;
    try {
      await context.audioWorklet.addModule(meterUrl);
      const meter = new AudioWorkletNode(context, "click-meter", {
        numberOfInputs: 1,
        numberOfOutputs: 1,
        channelCount: 1,
        channelCountMode: "explicit",
      });
      meter.port.onmessage = (event: MessageEvent<number>) => this.measure.hear(event.data / context.sampleRate);
      // A node that leads nowhere may not be run: its silent output goes out.
      meter.connect(context.destination);
      this.meter = meter;
    } catch {
      this.meter = null;
    }
  }
}

/** Where the cursor is at a time: between the schedule's points it moves evenly. Null outside them. */
export function cursorAt(schedule: Schedule, at_s: number): number | null {
  const points = schedule.cursor;
  let [low, high] = [0, points.length];
  while (low < high) {
    const mid = (low + high) >> 1;
    if ((points[mid]?.at_s ?? Infinity) <= at_s) low = mid + 1;
    else high = mid;
  }
  const [from, to] = [points[low - 1], points[low]];
  if (!from) return null;
  if (!to) return at_s > from.at_s ? null : from.onset_quarters;
  // Between two rounds lies a count-in or a gap: there the cursor waits.
  if (to.onset_quarters < from.onset_quarters) return null;
  const share = (at_s - from.at_s) / Math.max(1e-9, to.at_s - from.at_s);
  return from.onset_quarters + share * (to.onset_quarters - from.onset_quarters);
}

/** The stretch of a schedule in which a time lies, its count-in included. */
export function stretchAt(schedule: Schedule, at_s: number): Schedule["stretches"][number] | null {
  return schedule.stretches.findLast((one) => one.start_s <= at_s + 1e-6) ?? schedule.stretches[0] ?? null;
}
