/** Takes that were tapped but not yet stored by the server: kept on this device until they are. */
import * as z from "zod/mini";

import type { TakeCreate } from "../api/client";
import { keep, parsed } from "../lib/stored";

/** ``student``: whose it is, by name; which study it goes to stands in the take. */
export type Pending = { pieceId: number; take: TakeCreate; student?: string | undefined };

const KEY = "laptick.pending-takes";

/** What of a take must be right for it to be sent; the server looks at all of it. */
const SCHEMA = z.object({
  pieceId: z.int(),
  student: z.optional(z.string()),
  take: z.looseObject({
    activity: z.enum(["count", "lap", "play"]),
    bpm: z.number(),
    client_key: z.string(),
    taps: z.array(z.looseObject({ t: z.number() })),
    notes: z.array(z.looseObject({ t: z.number(), pitch: z.number() })),
  }),
});

const isPending = (one: unknown): one is Pending => SCHEMA.safeParse(one).success;

export function pendingTakes(): Pending[] {
  return stored().filter(isPending);
}

export function keepPending(pending: Pending): void {
  write([...others(pending.take.client_key), pending]);
}

export function forgetPending(clientKey: string | null | undefined): void {
  write(others(clientKey));
}

/** All but one; what cannot be read stays where it is. */
function others(clientKey: string | null | undefined): unknown[] {
  return stored().filter((one) => !isPending(one) || one.take.client_key !== clientKey);
}

function stored(): unknown[] {
  const found = parsed(KEY);
  return Array.isArray(found) ? found : [];
}

function write(all: unknown[]): void {
  keep(KEY, all); // without storage the take still stands on the screen and can be sent again from there
}

export function newClientKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
}
