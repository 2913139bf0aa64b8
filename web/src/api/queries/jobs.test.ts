import { afterEach, describe, expect, it, vi } from "vitest";

import type { ApiError } from "../client";
import { Refusal, serve } from "../../testing/draw";
import { type Job, jobOver, madeFile } from "./jobs";

afterEach(() => vi.unstubAllGlobals());

const job: Job = { id: 7, kind: "make", state: "running", progress: 0, whole: 0, judged: null, error: null };

describe("a job", () => {
  it("is looked at until it is done", async () => {
    const seen: string[] = [];
    serve({ "GET /api/jobs/7": { ...job, state: "done" } });
    await jobOver(job, undefined, ({ state }) => seen.push(state));
    expect(seen).toEqual(["running"]);
  });

  it("that failed is refused in its own words", async () => {
    const error = { code: "bad-score", what: "it cannot be drawn.", where: null, kept: null, todo: "Use the ruler." };
    const failed = await jobOver({ ...job, state: "failed", error }).catch((one: ApiError) => one);
    expect(failed).toMatchObject({ message: "it cannot be drawn.", todo: "Use the ruler." });
  });

  it("that is forgotten is over: what is wanted is asked for again", async () => {
    serve({ "GET /api/jobs/7": new Refusal(404, { code: "not-found", what: "this job is not here any more." }) });
    await expect(jobOver(job)).resolves.toBeUndefined();
  });

  it("can be left", async () => {
    const leave = new AbortController();
    serve({ "GET /api/jobs/7": job });
    const waiting = jobOver(job, leave.signal).catch((one: DOMException) => one.name);
    leave.abort();
    expect(await waiting).toBe("AbortError");
  });
});

describe("a file that is made", () => {
  it("is there when its address answers, and says why it is not", async () => {
    const answersOf = [
      new Response(JSON.stringify({ ...job, state: "done" }), { status: 202 }),
      new Response("%PDF", { status: 200 }),
    ];
    vi.stubGlobal("fetch", () => Promise.resolve(answersOf.shift()));
    await madeFile("/sheet", new AbortController().signal, () => undefined);
    expect(answersOf).toEqual([]);
    serve({ "GET /sheet": new Refusal(422, { code: "bad-score", what: "no notes.", todo: "Write some." }) });
    const refused = await madeFile(`${location.origin}/sheet`, new AbortController().signal, () => undefined).catch(
      (one: ApiError) => one,
    );
    expect(refused).toMatchObject({ message: "no notes." });
  });
});
