/** Takes that were tapped but not yet stored by the server: kept on this device until they are. */
import type { TakeCreate } from "../api/client";

export type Pending = { pieceId: number; take: TakeCreate };

const KEY = "laptick.pending-takes";

export function pendingTakes(): Pending[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return Array.isArray(found) ? (found as Pending[]) : [];
  } catch {
    return [];
  }
}

export function keepPending(pending: Pending): void {
  const others = pendingTakes().filter((one) => one.take.client_key !== pending.take.client_key);
  write([...others, pending]);
}

export function forgetPending(clientKey: string | null | undefined): void {
  write(pendingTakes().filter((one) => one.take.client_key !== clientKey));
}

function write(all: Pending[]): void {
  try {
    localStorage.setItem(KEY, JSON.stringify(all));
  } catch {
    // Without storage the take still stands on the screen and can be sent again from there.
  }
}

export function newClientKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
}
