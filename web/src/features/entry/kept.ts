/** What is typed of a passage and not stored yet: kept on this device, so that a killed tab does not lose it. */
import type { Bar } from "./typing";

export type Kept = { version: number; bars: Bar[] };

const key = (pieceId: number) => `laptick.entry.${pieceId}`;

export function keptTyped(pieceId: number): Kept | null {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(key(pieceId)) ?? "null");
    return found && typeof found === "object" && Array.isArray((found as Kept).bars) ? (found as Kept) : null;
  } catch {
    return null;
  }
}

export function keepTyped(pieceId: number, kept: Kept): void {
  try {
    localStorage.setItem(key(pieceId), JSON.stringify(kept));
  } catch {
    // Without storage what is typed still stands on the screen.
  }
}

/** Forgets what is kept; with ``bars``, only if nothing else was typed since. */
export function forgetKept(pieceId: number, bars?: Bar[]): void {
  const kept = keptTyped(pieceId);
  if (!bars || JSON.stringify(kept?.bars) === JSON.stringify(bars)) {
    try {
      localStorage.removeItem(key(pieceId));
    } catch {
      // nothing was kept
    }
  }
}
