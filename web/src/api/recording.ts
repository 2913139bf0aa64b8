/**
 * A recording sent in: begun, its chunks one by one, whole. What breaks off is gone on with where it stopped: the server
 * is asked what it has, and a chunk that came twice is kept once. Knows no React.
 */
import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex } from "@noble/hashes/utils.js";

import { again } from "./again";
import { ApiError, type Schemas, api, unwrap } from "./client";

export type RecordingAsked = Schemas["RecordingCreate"];
type Coming = Schemas["RecordingPublic"];

/** Sends a recording; gives its take. `onPart`: told the share that is there. */
export async function sendRecording(
  pieceId: number,
  asked: RecordingAsked,
  sound: Blob,
  onPart: (share: number) => void = () => undefined,
): Promise<number> {
  if (!sound.size) throw refused("this file is empty.", "Choose another one.");
  const coming = await again(() =>
    unwrap(api.POST("/api/pieces/{piece_id}/recordings", { params: { path: { piece_id: pieceId } }, body: asked })),
  );
  const chunks = Math.ceil(sound.size / coming.chunk_bytes);
  if (chunks > coming.most_chunks)
    throw refused(
      `this recording is larger than ${Math.floor((coming.most_chunks * coming.chunk_bytes) / 2 ** 20)} MB.`,
      "Record one piece at a time.",
    );
  const hash = sha256.create();
  for (let number = 0; number < chunks; number += 1) {
    const part = sound.slice(number * coming.chunk_bytes, (number + 1) * coming.chunk_bytes);
    const bytes = new Uint8Array(await part.arrayBuffer());
    hash.update(bytes);
    if (!coming.here.includes(number)) await again(() => putChunk(coming, number, bytes));
    onPart((number + 1) / chunks);
  }
  const whole = { params: { path: { recording_id: coming.id } }, body: { sha256: bytesToHex(hash.digest()) } };
  if (!coming.is_complete) await again(() => unwrap(api.POST("/api/recordings/{recording_id}/complete", whole)));
  return coming.take_id;
}

const putChunk = (coming: Coming, number: number, bytes: Uint8Array<ArrayBuffer>) =>
  unwrap(
    api.PUT("/api/recordings/{recording_id}/chunks/{number}", {
      params: { path: { recording_id: coming.id, number } },
      body: "",
      bodySerializer: () => bytes,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  );

const refused = (what: string, todo: string) =>
  new ApiError(0, "recording", what, null, "Nothing of it was sent.", todo);
