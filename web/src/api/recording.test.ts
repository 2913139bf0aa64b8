/** A recording sent over a line that breaks: what came is not sent again, and whole means whole. */
import { createHash } from "node:crypto";
import { afterEach, expect, it, vi } from "vitest";

import { sendRecording, type RecordingAsked } from "./recording";

const ASKED: RecordingAsked = {
  activity: "play", bpm: 60, hands: "both", times_round: 1, filename: "take.wav", media_type: "audio/wav", device: "",
  recorder: {}, client_key: "a-recording",
}; // prettier-ignore
const CHUNK = 8;

/** A server that keeps chunks; `fails`: which requests get no answer, by their number. */
function server({ here = [] as number[], fails = [] as number[], most = 4 } = {}) {
  const chunks = new Map<number, string>();
  const asked: string[] = [];
  let whole: string | null = null;
  let number = 0;
  vi.stubGlobal("fetch", async (request: Request) => {
    const path = new URL(request.url).pathname;
    asked.push(`${request.method} ${path}`);
    number += 1;
    if (fails.includes(number)) throw new TypeError("the line is down");
    const coming = { id: 7, take_id: 3, here, is_complete: false, chunk_bytes: CHUNK, most_chunks: most };
    if (path.endsWith("/complete")) {
      whole = ((await request.json()) as { sha256: string }).sha256;
      return Response.json({ ...coming, is_complete: true });
    }
    const chunk = /chunks\/(\d+)$/.exec(path);
    if (!chunk) return Response.json(coming, { status: 201 });
    expect(request.headers.get("Content-Type")).toBe("application/octet-stream");
    chunks.set(Number(chunk[1]), await request.text());
    return new Response(null, { status: 204 });
  });
  return { chunks, asked, whole: () => whole };
}

const SOUND = "a recording of a take";
const blob = () => new Blob([SOUND]);
const hash = createHash("sha256").update(SOUND).digest("hex");

afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

it("goes in chunks and ends with what it all was", async () => {
  const { chunks, whole } = server();
  const parts: number[] = [];
  expect(await sendRecording(1, ASKED, blob(), (share) => parts.push(share))).toBe(3);
  expect([...chunks.values()].join("")).toBe(SOUND);
  expect([...chunks.keys()]).toEqual([0, 1, 2]);
  expect(whole()).toBe(hash);
  expect(parts).toEqual([1 / 3, 2 / 3, 1]);
});

it("sends again what got no answer, and only that", async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true, advanceTimeDelta: 500 });
  const { chunks, asked, whole } = server({ fails: [1, 3] });
  expect(await sendRecording(1, ASKED, blob())).toBe(3);
  expect([...chunks.values()].join("")).toBe(SOUND);
  expect(asked.filter((one) => one.endsWith("/chunks/0"))).toHaveLength(2);
  expect(asked.filter((one) => one.endsWith("/chunks/1"))).toHaveLength(1);
  expect(whole()).toBe(hash);
});

it("goes on where it broke off, and still says what the whole was", async () => {
  const { chunks, whole } = server({ here: [0, 1] });
  await sendRecording(1, ASKED, blob());
  expect([...chunks.keys()]).toEqual([2]);
  expect(whole()).toBe(hash);
});

it("refuses what is too large or empty before it sends it", async () => {
  const { chunks } = server({ most: 2 });
  await expect(sendRecording(1, ASKED, blob())).rejects.toThrow("larger than");
  await expect(sendRecording(1, ASKED, new Blob([]))).rejects.toThrow("empty");
  expect(chunks.size).toBe(0);
});
