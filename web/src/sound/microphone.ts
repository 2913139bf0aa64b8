/**
 * The microphone: opened as it is, nothing smoothed or filtered, looked at for its level, and recorded in short pieces
 * that are handed on as they come. Framework-free; the browser is asked only when somebody wants it.
 */
import * as z from "zod/mini";

import { ApiError } from "../api/client";
import { keep, readParts } from "../lib/stored";
import { type Heard, LevelMeter, momentOf } from "./level";
import { StrikeMeter, powerOf } from "./strikes";

/**
 * ``unasked``: not tried yet; ``insecure``: this address may not have one; ``unsupported``: this browser has none;
 * ``missing``: no device; ``refused``: it may not; ``busy``: another program has it; ``lost``: it went away.
 */
export type MicAccess =
  "unasked" | "asking" | "open" | "insecure" | "unsupported" | "missing" | "refused" | "busy" | "lost";

/** How the beat is given: seen, heard by the player alone, or by the microphone too. */
export type BeatBy = "eye" | "headphones" | "aloud";

export type MicState = {
  access: MicAccess;
  isChosen: boolean;
  beatBy: BeatBy;
  /** By which the sound is kept, and whose it is. */
  consent: { id: number; student: number } | null;
  devices: readonly { id: string; name: string }[];
  deviceId: string | null;
  /** What this browser changes in the sound though it was asked not to. */
  changed: readonly string[];
  heard: Heard | null;
};

/** How a recording was made, for who listens to it. */
export type Recorder = { device: string; media_type: string; settings: Record<string, string | number | boolean> };

/** Sound for measuring: no echo, noise or level is corrected. */
export const RAW: MediaTrackConstraints = {
  echoCancellation: false,
  noiseSuppression: false,
  autoGainControl: false,
  channelCount: 1,
};
const CORRECTIONS = [
  ["echoCancellation", "echoes"],
  ["noiseSuppression", "noise"],
  ["autoGainControl", "the level"],
] as const;

/** What is recorded as, the first that the browser can; and how many bits a second, so that nothing is smeared. */
const TYPES = ["audio/webm;codecs=opus", "audio/mp4", "audio/ogg;codecs=opus"];
const BITS = 128_000;
/** A piece of sound this long is what a closed lid can cost. */
const PIECE_MS = 1000;
const MOST_SETTINGS = 18;
const LOOK_MS = 20;
const TELL_MS = 200;
/** After this a recorder that does not say that it ended is taken for ended. */
const ENDING_MS = 3000;

/** Also read by session/ear.ts, which loads this only when it is wanted. */
const KEY = "laptick.microphone";
type Choice = Pick<MicState, "isChosen" | "beatBy" | "deviceId">;
const SCHEMAS: { [K in keyof Choice]: z.ZodMiniType<Choice[K]> } = {
  isChosen: z.boolean(),
  beatBy: z.enum(["eye", "headphones", "aloud"]),
  deviceId: z.nullable(z.string()),
};

export class Microphone {
  private state: MicState = {
    access: accessNow(),
    consent: null,
    devices: [],
    changed: [],
    heard: null,
    ...readParts<Choice>(KEY, SCHEMAS, { isChosen: false, beatBy: "aloud", deviceId: null }),
  };
  private listeners = new Set<() => void>();
  private stream: MediaStream | null = null;
  private context: AudioContext | null = null;
  private looking: ReturnType<typeof setInterval> | undefined;
  private recorder: MediaRecorder | null = null;
  private told_ms = 0;
  private readonly level = new LevelMeter();
  readonly struck = new StrikeMeter();

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = (): MicState => this.state;

  private set(part: Partial<MicState>): void {
    this.state = { ...this.state, ...part };
    for (const listener of this.listeners) listener();
  }

  /** Whether it is what listens. */
  choose(isChosen: boolean): void {
    this.keep({ isChosen });
    if (isChosen) this.open().catch(() => undefined);
    else this.close(); // why it could not be opened is told by its state
  }

  giveBeat(beatBy: BeatBy): void {
    this.keep({ beatBy });
  }

  keepSound(consent: { id: number; student: number } | null): void {
    this.set({ consent });
  }

  async use(deviceId: string): Promise<void> {
    this.keep({ deviceId });
    this.close();
    await this.open();
  }

  private keep(part: Partial<Choice>): void {
    this.set(part);
    const { isChosen, beatBy, deviceId } = this.state;
    keep(KEY, { isChosen, beatBy, deviceId });
  }

  /** Asks for it, once; what stands in its way is told. */
  async open(): Promise<void> {
    if (this.stream) return;
    this.set({ access: "asking" });
    try {
      this.stream = await askForMicrophone(this.state.deviceId);
    } catch (problem) {
      this.set({ access: problem instanceof Refusal ? problem.access : "missing" });
      throw problem;
    }
    const [track] = this.stream.getAudioTracks();
    if (track) track.onended = () => this.lose();
    const settings = (track?.getSettings() ?? {}) as Record<string, unknown>;
    const changed = CORRECTIONS.filter(([key]) => settings[key] === true).map(([, words]) => words);
    this.set({ access: "open", changed });
    this.look(this.stream);
    await this.list();
  }

  private async list(): Promise<void> {
    const all = await navigator.mediaDevices.enumerateDevices().catch(() => []);
    const devices = all
      .filter((one) => one.kind === "audioinput" && one.deviceId)
      .map((one) => ({ id: one.deviceId, name: one.label || "a microphone without a name" }));
    this.set({ devices });
  }

  private look(stream: MediaStream): void {
    this.context = new AudioContext();
    const { context } = this;
    void context.resume();
    const analyser = new AnalyserNode(context, { fftSize: 2048, smoothingTimeConstant: 0 });
    context.createMediaStreamSource(stream).connect(analyser);
    const samples = new Float32Array(analyser.fftSize);
    const decibels = new Float32Array(analyser.frequencyBinCount);
    this.struck.forget();
    this.looking = setInterval(() => {
      if (context.state !== "running") return;
      analyser.getFloatTimeDomainData(samples);
      const now = performance.now();
      this.level.hear(now, momentOf(samples));
      analyser.getFloatFrequencyData(decibels);
      this.struck.hear(now, powerOf(decibels, context.sampleRate));
      if (now - this.told_ms < TELL_MS) return;
      this.told_ms = now;
      this.set({ heard: this.level.heard() });
    }, LOOK_MS);
  }

  private lose(): void {
    this.close();
    this.set({ access: "lost" });
  }

  close(): void {
    clearInterval(this.looking);
    for (const track of this.stream?.getTracks() ?? []) {
      track.onended = null;
      track.stop();
    }
    void this.context?.close();
    this.stream = this.context = null;
    this.set({ access: accessNow(), heard: null });
  }

  /** Begins to record: pieces are handed on as they come; gives when it began, on the page's clock, once it has. */
  record(onPiece: (piece: Blob) => void): Promise<{ begun_ms: number; recorder: Recorder }> {
    const { stream } = this;
    if (!stream) throw new Error("the microphone is closed");
    const mimeType = TYPES.find((type) => MediaRecorder.isTypeSupported(type));
    const recorder = new MediaRecorder(stream, { ...(mimeType ? { mimeType } : {}), audioBitsPerSecond: BITS });
    this.recorder = recorder;
    recorder.ondataavailable = ({ data }) => {
      if (data.size) onPiece(data);
    };
    this.level.begin();
    this.struck.begin();
    return new Promise((begun) => {
      recorder.onstart = () => {
        const [track] = stream.getAudioTracks();
        const settings = Object.fromEntries(
          Object.entries(track?.getSettings() ?? {})
            .filter(
              (entry): entry is [string, string | number | boolean] =>
                !/id$/i.test(entry[0]) && ["string", "number", "boolean"].includes(typeof entry[1]),
            )
            .slice(0, MOST_SETTINGS),
        );
        begun({
          begun_ms: performance.now(),
          recorder: { device: track?.label ?? "", media_type: recorder.mimeType, settings },
        });
      };
      recorder.start(PIECE_MS);
    });
  }

  /** Ends the recording; resolves when its last piece was handed on. */
  async stop(): Promise<void> {
    const { recorder } = this;
    this.recorder = null;
    this.level.end();
    if (!recorder || recorder.state === "inactive") return;
    const stopped = new Promise<void>((done) => {
      recorder.onstop = () => done();
      setTimeout(done, ENDING_MS);
    });
    recorder.stop();
    await stopped;
  }
}

function accessNow(): "insecure" | "unasked" | "unsupported" {
  if (!window.isSecureContext) return "insecure";
  return "mediaDevices" in navigator && typeof MediaRecorder !== "undefined" ? "unasked" : "unsupported";
}

const NAMES: Record<string, keyof typeof MIC_WORDS> = {
  NotAllowedError: "refused",
  SecurityError: "refused",
  NotFoundError: "missing",
  OverconstrainedError: "missing",
  NotReadableError: "busy",
  AbortError: "busy",
};
const accessOf = (problem: unknown): keyof typeof MIC_WORDS =>
  problem instanceof DOMException ? (NAMES[problem.name] ?? "missing") : "missing";

/** What stands in the way of it, and what to do; and for takes, what other way there is. */
export const MIC_WORDS: Record<Exclude<MicAccess, "unasked" | "asking" | "open">, readonly [string, string, string]> = {
  insecure: [
    "The browser gives no microphone to an address without https.",
    "Open this page on the computer itself.",
    "Or record with the device’s own recorder, and bring the file under Takes.",
  ],
  unsupported: [
    "This browser cannot record.",
    "Use another browser.",
    "Or record with the device’s own recorder, and bring the file under Takes.",
  ],
  missing: ["No microphone is there.", "Plug one in and try again.", "Or bring a recording as a file under Takes."],
  refused: [
    "The browser does not let this page use the microphone.",
    "Allow it in the page’s settings beside the address, then try again.",
    "Or bring a recording as a file under Takes.",
  ],
  busy: ["The microphone is in use by something else.", "Close the other program, then try again.", ""],
  lost: ["The microphone went away.", "Plug it in again, then switch it on here.", ""],
};

/** Why there is no microphone, and what to do; ``kept``: what that leaves as it was, where it was not for a take. */
class Refusal extends ApiError {
  constructor(
    readonly access: keyof typeof MIC_WORDS,
    kept: string | null,
  ) {
    const [what, todo, otherWay] = MIC_WORDS[access];
    const ways = kept === null ? `${todo} ${otherWay}`.trim() : todo;
    super(0, "no-microphone", what, null, kept ?? "Nothing was recorded.", ways);
  }
}

/** The microphone as it is, where this page may have one. */
export async function askForMicrophone(deviceId: string | null, kept: string | null = null): Promise<MediaStream> {
  const access = accessNow();
  if (access !== "unasked") throw new Refusal(access, kept);
  try {
    return await navigator.mediaDevices.getUserMedia({ audio: { ...RAW, ...(deviceId ? { deviceId } : {}) } });
  } catch (problem) {
    throw new Refusal(accessOf(problem), kept);
  }
}
