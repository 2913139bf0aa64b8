/** Samples of a schedule, loaded when they are first played and kept for this visit. */
import { ApiError, type Schedule } from "../api/client";

const RETRY = "Press play once more; what is heard without them goes on.";

export class SampleStore {
  private files = new Map<string, Promise<AudioBuffer>>();

  constructor(private readonly context: BaseAudioContext) {}

  /** All files of a schedule, decoded. Fails with words for a teacher. */
  async load(schedule: Schedule): Promise<Map<string, AudioBuffer>> {
    const wanted = [...new Set(Object.values(schedule.samples).map((sample) => sample.file))];
    const loaded = await Promise.all(wanted.map(async (file) => [file, await this.file(file)] as const));
    return new Map(loaded);
  }

  /** Files by name, decoded, in order. */
  all(files: readonly string[]): Promise<AudioBuffer[]> {
    return Promise.all(files.map((file) => this.file(file)));
  }

  private file(file: string): Promise<AudioBuffer> {
    const known = this.files.get(file);
    if (known) return known;
    const loading = this.fetch(file);
    this.files.set(file, loading);
    loading.catch(() => this.files.delete(file)); // a failure is not kept
    return loading;
  }

  private async fetch(file: string): Promise<AudioBuffer> {
    let answer: Response;
    try {
      answer = await fetch(file);
    } catch {
      throw new ApiError(
        0,
        "offline",
        "The sounds cannot be loaded: Lap Tick’s server does not answer.",
        null,
        "Nothing was lost.",
        "Start it again, then press play.",
      );
    }
    if (!answer.ok)
      throw new ApiError(
        answer.status,
        "no-sounds",
        "A sound of this play-along is missing.",
        file,
        "Nothing was lost.",
        RETRY,
      );
    try {
      return await this.context.decodeAudioData(await answer.arrayBuffer());
    } catch {
      throw new ApiError(
        0,
        "no-sounds",
        "This browser cannot decode a sound of this play-along.",
        file,
        "Nothing was lost.",
        "Try a current Chromium, Firefox or Safari.",
      );
    }
  }
}
