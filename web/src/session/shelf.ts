/**
 * Recordings that the server does not have yet, piece by piece as they come: kept on this device, so that a lost
 * connection, a reload or a closed lid costs at most the last second. A recording that is being made holds a lock; what
 * is here without one was broken off, or not sent.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";

import type { RecordingAsked } from "../api/recording";

/** ``student``: whose it is, by name; which study it goes to stands in ``asked``. */
export type Shelved = { key: string; pieceId: number; student?: string; asked: RecordingAsked; begun_at: number };

interface Schema extends DBSchema {
  recording: { key: string; value: Shelved };
  piece: { key: [string, number]; value: Blob };
}

let opened: Promise<IDBPDatabase<Schema>> | null = null;
const shelf = () =>
  (opened ??= openDB<Schema>("laptick.recordings", 1, {
    upgrade(db) {
      db.createObjectStore("recording", { keyPath: "key" });
      db.createObjectStore("piece");
    },
  }));

const piecesOf = (key: string) => IDBKeyRange.bound([key, 0], [key, Infinity]);

export async function shelve(one: Shelved): Promise<void> {
  await (await shelf()).put("recording", one);
}

export async function addPiece(key: string, number: number, piece: Blob): Promise<void> {
  await (await shelf()).put("piece", piece, [key, number]);
}

/** All of its pieces, one after the other. */
export async function soundOf({ key, asked }: Shelved): Promise<Blob> {
  return new Blob(await (await shelf()).getAll("piece", piecesOf(key)), { type: asked.media_type ?? "" });
}

export async function unshelve(key: string): Promise<void> {
  const both = (await shelf()).transaction(["recording", "piece"], "readwrite");
  await Promise.all([
    both.objectStore("recording").delete(key),
    both.objectStore("piece").delete(piecesOf(key)),
    both.done,
  ]);
}

/** What waits here and is not being made just now, in any window. */
export async function shelved(): Promise<Shelved[]> {
  if (typeof indexedDB === "undefined") return [];
  const all = await (await shelf()).getAll("recording");
  const held = new Set((await navigator.locks?.query())?.held?.map(({ name }) => name));
  return all.filter(({ key }) => !held.has(lockOf(key)));
}

const lockOf = (key: string) => `laptick.recording.${key}`;

/** Holds it until what is given back is called, or this page goes away. */
export function hold(key: string): () => void {
  let release: () => void = () => undefined;
  const until = new Promise<void>((done) => {
    release = done;
  });
  void navigator.locks?.request(lockOf(key), () => until);
  return release;
}
