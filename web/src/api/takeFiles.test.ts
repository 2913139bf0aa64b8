/** Several files at once: what is refused keeps nobody else, and says which it was. */
import { afterEach, expect, it, vi } from "vitest";

import { sendTakeFiles, type TakeFile } from "./takeFiles";

const file = (name: string): TakeFile => ({
  file: new File(["sound or strikes"], name),
  asked: {
    activity: "play", bpm: 60, hands: "both", times_round: 1, filename: name, media_type: "", device: "", recorder: {},
    client_key: name,
  }, // prettier-ignore
});

/** A server that gives every take the next number; `away`: from which request on nobody answers. */
function server({ refuses = "", away = Infinity } = {}) {
  const asked: string[] = [];
  let take = 0;
  vi.stubGlobal("fetch", async (request: Request) => {
    const path = new URL(request.url).pathname;
    asked.push(path);
    if (asked.length > away) throw new TypeError("the line is down");
    if (refuses && path.endsWith(refuses))
      return Response.json({ error: { code: "take", what: "this is no take." } }, { status: 422 });
    if (path.endsWith("/file")) return Response.json({ id: (take += 1) }, { status: 201 });
    if (!path.endsWith("/recordings")) return new Response(null, { status: 204 });
    const coming = { id: 7, take_id: (take += 1), here: [], is_complete: true, chunk_bytes: 64, most_chunks: 4 };
    return Response.json(coming, { status: 201 });
  });
  return asked;
}

const quiet = () => undefined;

afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

it("sends recordings and files of strikes one after the other, in order", async () => {
  const asked = server();
  const parts: number[] = [];
  const sent = await sendTakeFiles(1, ["a.wav", "b.mid", "c.m4a"].map(file), (index) => parts.push(index));
  expect(sent).toEqual({ takes: [1, 2, 3], refused: [] });
  expect(asked.filter((path) => path.endsWith("/recordings"))).toHaveLength(2);
  expect(asked.filter((path) => path.endsWith("/takes/file"))).toHaveLength(1);
  expect(parts).toEqual([0, 0, 1, 2, 2]);
});

it("goes on after one that is refused, and says which", async () => {
  server({ refuses: "/takes/file" });
  const { takes, refused } = await sendTakeFiles(1, ["a.wav", "b.mid", "c.m4a", "d.mid"].map(file), quiet);
  expect(takes).toEqual([1, 2]);
  expect(refused.map(({ names }) => names)).toEqual([["b.mid", "d.mid"]]); // why is said once
  expect(refused[0]?.error).toMatchObject({ message: "this is no take." });
});

it("tries none of the rest where the server is away, and names them all", async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true, advanceTimeDelta: 500 });
  const asked = server({ away: 2 });
  const { takes, refused } = await sendTakeFiles(1, ["a.wav", "b.wav", "c.mid"].map(file), quiet);
  expect(takes).toEqual([1]);
  expect(refused.map(({ names }) => names)).toEqual([["b.wav", "c.mid"]]);
  expect(asked).not.toContain("/api/pieces/1/takes/file");
});
