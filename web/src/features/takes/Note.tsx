/** The teacher's note on a take. */
import { useEffect, useState } from "react";
import * as z from "zod/mini";

import type { Piece, Take } from "../../api/client";
import { useNoteTake } from "../../api/queries/takes";
import { forget, keep, readStored } from "../../lib/stored";

const SAVE_AFTER_MS = 700;

/** Saved while one types; what could not be saved stays here and on this device. */
export function Note({ piece, take }: { piece: Piece; take: Take }) {
  const key = `laptick.note.${take.id}`;
  const [text, setText] = useState(() => readStored(key, z.string()) ?? take.note);
  const { mutate, isPending, error } = useNoteTake(take.id, piece.id);
  useEffect(() => {
    if (text === take.note) {
      forget(key);
      return undefined;
    }
    keep(key, text);
    const timer = setTimeout(() => mutate(text), SAVE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [text, take.note, key, mutate]);
  return (
    <label className="mt-5 block" data-screen-only={text ? undefined : ""}>
      <span className="font-bold">Note</span>
      <textarea
        className="mt-1 block w-full rounded-lg border border-edge bg-paper p-2"
        rows={3}
        maxLength={4000}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <span role="status" className="text-sm text-quiet">
        {error
          ? "Not saved yet; it is kept on this device."
          : text !== take.note || isPending
            ? "Saving …"
            : take.note
              ? "Saved."
              : ""}
      </span>
    </label>
  );
}
