/** What takes longer than a request: the server answers with the job, which is looked at until it is over. */
import { ApiError, type Answer, type Schemas, api, unwrap } from "../client";

export type Job = Schemas["JobPublic"];

export const isOver = (job: Job) => job.state === "done" || job.state === "failed" || job.state === "stopped";

const LOOK_MS = 400;

const pause = (ms: number, signal?: AbortSignal) =>
  new Promise<void>((done, left) => {
    const timer = setTimeout(done, ms);
    signal?.addEventListener("abort", () => {
      clearTimeout(timer);
      left(new DOMException("left", "AbortError"));
    });
  });

/** Waits until a job is over; refused with its own error where it failed. */
export async function jobOver(job: Job, signal?: AbortSignal, onLook?: (job: Job) => void): Promise<void> {
  let now = job;
  while (!isOver(now)) {
    onLook?.(now);
    await pause(LOOK_MS, signal);
    try {
      now = await unwrap(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: now.id } } }));
    } catch (error) {
      if (error instanceof ApiError && error.status === 404) return; // over and forgotten since: ask again
      throw error;
    }
  }
  const { error } = now;
  if (error) throw new ApiError(500, error.code, error.what, error.where, error.kept, error.todo);
  if (now.state === "stopped")
    throw new ApiError(409, "stopped", "This was stopped before it was done.", null, null, null);
}

/** What a request is answered with when it is made: asked again after the job that the first answer told. */
export async function made<T>(ask: () => Promise<Answer<T | Job>>, signal?: AbortSignal): Promise<T> {
  for (;;) {
    const asked = ask();
    const told = await unwrap(asked);
    if ((await asked).response.status !== 202) return told as T;
    await jobOver(told as Job, signal);
  }
}

/** The same, of a file: when this is through, its address answers at once. */
export async function madeFile(address: string, signal: AbortSignal, onLook: (job: Job) => void): Promise<void> {
  for (;;) {
    const response = await globalThis.fetch(address, { signal, headers: { Accept: "*/*" } }).catch((error: unknown) => {
      if (signal.aborted) throw error;
      throw new ApiError(0, "offline", "Lap Tick’s server does not answer.", null, null, "Start it again.");
    });
    if (response.status === 202) {
      await jobOver((await response.json()) as Job, signal, onLook);
      continue;
    }
    if (!response.ok) {
      const error = await response.json().catch(() => undefined);
      await unwrap(Promise.resolve({ error, response }));
    }
    await response.body?.cancel();
    return;
  }
}
