/** A take by the microphone: its pieces kept on this device as they come, until the server has them. */
import { parsed } from "../lib/stored";
import type { BeatBy } from "../sound/microphone";
import type { Shelved } from "./shelf";
import type { Desk } from "./state";

/** When the passage began, and when the device clicked, on the page's clock in ms. */
export type Sounded = { first_beat_ms: number; clicks_ms: readonly number[] };

/** What is recorded of: the bars, the piece, whose it is. */
export type Work = Pick<Desk, "pieceId" | "settings" | "student">;

/** What a session needs of the microphone: the real one is below, tests have their own. */
export type Ear = {
  isChosen(): boolean;
  beatBy(): BeatBy;
  open(): Promise<void>;
  /** Begins to record. */
  start(work: Work): Promise<void>;
  /** What was struck so far, as far as that is heard while one plays; null where this browser tells nothing of it. */
  struck(): { count: number; last_ms: number | undefined } | null;
  isLost(): boolean;
  /** Ends it; what was recorded is kept here until it is sent. Rejected where nothing was struck: it is thrown away. */
  stop(sounded: Sounded): Promise<Recorded>;
  /** The server has it, or nobody wants it: it goes from this device. */
  forget(recorded: Recorded): Promise<void>;
  /** Ends it and throws it away. */
  drop(): void;
  close(): void;
};

export type Recorded = { shelved: Shelved; sound: Blob };

/** Where it is kept on this device whether the microphone listens. */
export const MICROPHONE_KEY = "laptick.microphone";

/** The microphone, which is loaded when it is first wanted: most takes are played on keys. */
export class LazyEar implements Ear {
  private real: Ear | null = null;

  isChosen = (): boolean => (parsed(MICROPHONE_KEY) as { isChosen?: unknown } | null)?.isChosen === true;
  beatBy = (): BeatBy => this.real?.beatBy() ?? "aloud";

  async open(): Promise<void> {
    this.real ??= (await import("./microphoneEar")).ear;
    await this.real.open();
  }

  async start(work: Work): Promise<void> {
    await this.real?.start(work);
  }

  struck = () => (this.real ? this.real.struck() : null);
  isLost = (): boolean => this.real?.isLost() ?? false;

  stop(sounded: Sounded): Promise<Recorded> {
    return this.real ? this.real.stop(sounded) : Promise.reject(new Error("nothing is recorded"));
  }

  async forget(recorded: Recorded): Promise<void> {
    await this.real?.forget(recorded);
  }

  drop(): void {
    this.real?.drop();
  }

  close(): void {
    this.real?.close();
  }
}
