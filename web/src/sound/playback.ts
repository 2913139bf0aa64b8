/**
 * A take's sound, played from any place, slower without another pitch, with the click of its beat beside it. The click
 * is the right channel of the same file: nothing moves one against the other. Framework-free.
 */
import { ApiError } from "../api/client";

export type PlaybackState = {
  isPlaying: boolean;
  rate: number;
  click: boolean;
  seconds: number | null;
  problem: unknown;
};

export const RATES = [1, 0.75, 0.5] as const;
const CLICK_GAIN = 0.6;
const SMOOTH_S = 0.015;

export class TakePlayback {
  private state: PlaybackState = { isPlaying: false, rate: 1, click: false, seconds: null, problem: null };
  private listeners = new Set<() => void>();
  private watchers = new Set<(at_s: number | null) => void>();
  private readonly audio = new Audio();
  private context: AudioContext | null = null;
  private clickGain: GainNode | null = null;
  private frame = 0;

  constructor(url: string) {
    const { audio } = this;
    audio.preload = "metadata";
    audio.preservesPitch = true;
    audio.src = url;
    audio.addEventListener("loadedmetadata", () => this.set({ seconds: audio.duration }));
    audio.addEventListener("play", () => {
      this.set({ isPlaying: true, problem: null });
      this.watch();
    });
    for (const name of ["pause", "ended"] as const)
      audio.addEventListener(name, () => {
        this.set({ isPlaying: false });
      });
    audio.addEventListener("error", () => this.set({ isPlaying: false, problem: unplayable() }));
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = (): PlaybackState => this.state;

  private set(part: Partial<PlaybackState>): void {
    this.state = { ...this.state, ...part };
    for (const listener of this.listeners) listener();
  }

  /** Told where it is while it plays, and where it was gone to. */
  follow(watcher: (at_s: number | null) => void): () => void {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  }

  private tell(at_s: number | null): void {
    for (const watcher of this.watchers) watcher(at_s);
  }

  private watch(): void {
    cancelAnimationFrame(this.frame);
    this.tell(this.audio.currentTime);
    if (this.state.isPlaying) this.frame = requestAnimationFrame(() => this.watch());
  }

  /** Call inside a key press or click: browsers start sound only then. */
  play(from_s?: number): void {
    if (from_s !== undefined) this.audio.currentTime = Math.max(0, from_s);
    this.connect();
    void this.context?.resume();
    this.audio.playbackRate = this.state.rate;
    this.audio.play().catch((problem: unknown) => {
      if (!(problem instanceof DOMException && problem.name === "AbortError")) this.set({ problem: unplayable() });
    });
  }

  pause(): void {
    this.audio.pause();
  }

  toggle(): void {
    if (this.state.isPlaying) this.pause();
    else this.play();
  }

  /** Goes there; plays on if it plays. */
  seek(at_s: number): void {
    this.audio.currentTime = Math.max(0, at_s);
    this.tell(at_s);
  }

  setRate(rate: number): void {
    this.audio.playbackRate = rate;
    this.set({ rate });
  }

  setClick(click: boolean): void {
    this.set({ click });
    if (this.context) this.clickGain?.gain.setTargetAtTime(click ? CLICK_GAIN : 0, this.context.currentTime, SMOOTH_S);
  }

  close(): void {
    cancelAnimationFrame(this.frame);
    this.audio.pause();
    this.audio.removeAttribute("src");
    void this.context?.close();
    this.tell(null);
  }

  /** Both channels to both ears, the click at a level of its own. */
  private connect(): void {
    if (this.context) return;
    const context = new AudioContext();
    const apart = new ChannelSplitterNode(context, { numberOfOutputs: 2 });
    const click = new GainNode(context, { gain: this.state.click ? CLICK_GAIN : 0, channelCount: 1 });
    const sound = new GainNode(context, { gain: 1, channelCount: 1 });
    context.createMediaElementSource(this.audio).connect(apart);
    apart.connect(sound, 0).connect(context.destination);
    apart.connect(click, 1).connect(context.destination);
    this.context = context;
    this.clickGain = click;
  }
}

const unplayable = () =>
  new ApiError(
    0,
    "no-playback",
    "The sound of this take cannot be played now.",
    null,
    "It is kept as it was.",
    "Look whether the server is there, then load the page anew.",
  );
