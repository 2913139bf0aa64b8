/** Asking again while the server cannot be reached or has too much to do. Knows no React. */
import { ApiError } from "./client";

/** How often a part is sent before it is given up, and how long is waited before the first time again. */
const MOST_TRIES = 5;
const AGAIN_MS = 500;

export async function again<T>(ask: () => Promise<T>): Promise<T> {
  for (let tried = 1; ; tried += 1) {
    try {
      return await ask();
    } catch (error) {
      const passes = error instanceof ApiError && (error.code === "offline" || error.status >= 500);
      if (!passes || tried === MOST_TRIES) throw error;
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS * 2 ** (tried - 1)));
    }
  }
}
