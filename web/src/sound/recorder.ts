/** Records single words: the microphone as it is, nothing smoothed or filtered, handed on as WAV. */
import { askForMicrophone } from "./microphone";

export class WordRecorder {
  private stream: MediaStream | null = null;
  private context: AudioContext | null = null;

  /** Asks for the microphone, once. */
  async open(): Promise<void> {
    if (this.stream) return;
    this.stream = await askForMicrophone(null, "The voice stays as it was.");
    this.context = new AudioContext();
  }

  /** What is heard in the next moments, as a WAV file. */
  async record(seconds: number): Promise<Blob> {
    const { stream, context } = this;
    if (!stream || !context) throw new Error("the recorder is closed");
    const chunks: Blob[] = [];
    const recorder = new MediaRecorder(stream);
    recorder.ondataavailable = (event) => chunks.push(event.data);
    const stopped = new Promise<void>((done) => {
      recorder.onstop = () => done();
    });
    recorder.start();
    await new Promise((done) => setTimeout(done, seconds * 1000));
    recorder.stop();
    await stopped;
    const buffer = await context.decodeAudioData(await new Blob(chunks, { type: recorder.mimeType }).arrayBuffer());
    return wavOf(buffer.getChannelData(0), buffer.sampleRate);
  }

  close(): void {
    for (const track of this.stream?.getTracks() ?? []) track.stop();
    void this.context?.close();
    this.stream = this.context = null;
  }
}

/** Mono samples as 16-bit WAV (RIFF). */
export function wavOf(samples: Float32Array, rate: number): Blob {
  const view = new DataView(new ArrayBuffer(44 + 2 * samples.length));
  const text = (at: number, words: string) => {
    for (let i = 0; i < words.length; i++) view.setUint8(at + i, words.charCodeAt(i));
  };
  text(0, "RIFF");
  view.setUint32(4, 36 + 2 * samples.length, true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, 2 * rate, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  text(36, "data");
  view.setUint32(40, 2 * samples.length, true);
  samples.forEach((sample, i) => view.setInt16(44 + 2 * i, Math.max(-1, Math.min(1, sample)) * 32767, true));
  return new Blob([view.buffer], { type: "audio/wav" });
}
