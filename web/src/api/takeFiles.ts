/**
 * Takes brought as files, sent one after the other: recordings, and files of strikes. One that is refused does not keep
 * the others; once the server is away the rest is not tried. Knows no React.
 */
import { ApiError, api, fileBody, unwrap } from "./client";
import { type RecordingAsked, sendRecording } from "./recording";

export type TakeFile = { file: File; asked: RecordingAsked };

/** `takes`: of what was stored, in order; `refused`: what was not, with why; what is refused alike stands together. */
export type SentFiles = { takes: number[]; refused: { names: string[]; error: unknown }[] };

/** Files of strikes; everything else that comes is taken for a recording, and the server says if it is none. */
const isStrikes = (file: File) => /\.(midi?|json)$/i.test(file.name);

/** `onPart`: told which one is sent, and the share of it that is there. */
export async function sendTakeFiles(
  pieceId: number,
  files: TakeFile[],
  onPart: (index: number, share: number) => void,
): Promise<SentFiles> {
  const sent: SentFiles = { takes: [], refused: [] };
  for (const [index, one] of files.entries()) {
    onPart(index, 0);
    try {
      const told = (share: number) => {
        onPart(index, share);
      };
      sent.takes.push(
        isStrikes(one.file) ? await sendStrikes(pieceId, one) : await sendRecording(pieceId, one.asked, one.file, told),
      );
    } catch (error) {
      const isAway = error instanceof ApiError && error.code === "offline";
      const names = (isAway ? files.slice(index) : [one]).map(({ file }) => file.name);
      const alike = sent.refused.find((before) => String(before.error) === String(error));
      if (alike) alike.names.push(...names);
      else sent.refused.push({ names, error });
      if (isAway) break;
    }
  }
  return sent;
}

async function sendStrikes(pieceId: number, { file, asked }: TakeFile): Promise<number> {
  const { activity, bpm, hands, measures = null, times_round } = asked;
  const stored = await unwrap(
    api.POST("/api/pieces/{piece_id}/takes/file", {
      params: { path: { piece_id: pieceId }, query: { activity, bpm, hands, measures, times_round } },
      ...fileBody("file", file),
    }),
  );
  return stored.id;
}
