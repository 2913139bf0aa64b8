/** The microphone as an ear: what it hears is kept on this device as it comes, until the server has it. */
import { ApiError } from "../api/client";
import type { RecordingAsked } from "../api/recording";
import { MICROPHONE } from "../lib/words";
import { type BeatBy, Microphone } from "../sound/microphone";
import type { Ear, Recorded, Sounded, Work } from "./ear";
import { newClientKey } from "./pending";
import { type Shelved, addPiece, hold, shelve, unshelve } from "./shelf";

/** ``pieces``: the sound once more, for where this device keeps nothing. */
type Making = { shelved: Shelved; begun_ms: number; pieces: Blob[]; kept: Promise<unknown>; release: () => void };

/** Where a device keeps nothing, the recording is still sent from here. */
const quietly = (kept: Promise<void>) => kept.catch(() => undefined);

export class MicrophoneEar implements Ear {
  private making: Making | null = null;

  constructor(private readonly microphone: Microphone) {}

  isChosen = (): boolean => this.microphone.snapshot().isChosen;
  beatBy = (): BeatBy => this.microphone.snapshot().beatBy;
  open = (): Promise<void> => this.microphone.open();
  struck = () => {
    const { struck } = this.microphone;
    return struck.isFed(performance.now()) ? struck.strikes : null;
  };
  isLost = (): boolean => this.microphone.snapshot().access === "lost";

  async start({ pieceId, settings, student }: Work): Promise<void> {
    const key = newClientKey();
    const { consent, beatBy } = this.microphone.snapshot();
    const asked: RecordingAsked = {
      ...settings,
      filename: MICROPHONE,
      media_type: "",
      device: "",
      recorder: {},
      consent_id: consent?.student === student.id ? consent.id : null,
      client_key: key,
      first_beat_s: null,
      clicks_s: [],
    };
    const shelved: Shelved = { key, pieceId, student: student.name, asked, begun_at: Date.now() };
    const making: Making = { shelved, begun_ms: 0, pieces: [], kept: quietly(shelve(shelved)), release: hold(key) };
    this.making = making;
    const { begun_ms, recorder } = await this.microphone.record((piece) => {
      const number = making.pieces.push(piece) - 1;
      making.kept = making.kept.then(() => quietly(addPiece(key, number, piece)));
    });
    making.begun_ms = begun_ms;
    const { device, media_type, settings: how } = recorder;
    making.shelved = {
      ...shelved,
      asked: { ...asked, media_type, device: device.slice(0, 300), recorder: { ...how, beat_by: beatBy } },
    };
    making.kept = making.kept.then(() => quietly(shelve(making.shelved)));
  }

  async stop({ first_beat_ms, clicks_ms }: Sounded): Promise<Recorded> {
    const { making } = this;
    if (!making) throw new Error("nothing is recorded");
    if (this.struck()?.count === 0) {
      this.drop();
      throw nothingHeard();
    }
    this.making = null;
    await this.microphone.stop();
    const at_s = (ms: number) => (ms - making.begun_ms) / 1000;
    const shelved: Shelved = {
      ...making.shelved,
      asked: {
        ...making.shelved.asked,
        first_beat_s: Math.max(0, at_s(first_beat_ms)),
        clicks_s: clicks_ms.map(at_s),
      },
    };
    await making.kept;
    await quietly(shelve(shelved));
    making.release();
    return { shelved, sound: new Blob(making.pieces, { type: shelved.asked.media_type ?? "" }) };
  }

  forget({ shelved }: Recorded): Promise<void> {
    return quietly(unshelve(shelved.key));
  }

  drop(): void {
    const { making } = this;
    this.making = null;
    if (!making) return;
    void this.microphone
      .stop()
      .then(() => making.kept)
      .then(() => unshelve(making.shelved.key))
      .finally(making.release);
  }

  close(): void {
    if (!this.making) this.microphone.close();
  }
}

const nothingHeard = () =>
  new ApiError(
    0,
    "nothing-heard",
    "The microphone heard nothing that was struck, so no take was made.",
    null,
    null,
    "Play something and look whether the level moves; then record again.",
  );

/** The one of this page. */
export const microphone = new Microphone();
export const ear = new MicrophoneEar(microphone);
