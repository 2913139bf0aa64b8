/** What a passage is called, its time signature, upbeat and tempo: changed while it is written. */
import { useState } from "react";

import type { Entry } from "../../api/client";
import { useNaming } from "../../api/queries/studio";
import { Choice } from "../../ui/Choice";
import { Button } from "../../ui/kit";
import { SIGNATURES, upbeatsIn } from "./options";

export type Head = Pick<Entry, "title" | "beats" | "beat_type" | "pickup" | "bpm">;

export function About({ entry, busy, onSave }: { entry: Entry; busy: boolean; onSave: (head: Head) => void }) {
  const naming = useNaming();
  const [title, setTitle] = useState<string | null>(null);
  const [bpm, setBpm] = useState<string | null>(null);
  const { beats, beat_type, pickup } = entry;
  const head: Head = { title: entry.title, beats, beat_type, pickup, bpm: entry.bpm ?? null };
  const signature = `${beats}/${beat_type}`;
  const tempo = bpm ?? (entry.bpm ? String(entry.bpm) : "");
  const fits = tempo.trim() === "" || (Number(tempo) >= 20 && Number(tempo) <= 300);
  const save = () => {
    if (!fits) return;
    onSave({ ...head, title: (title ?? entry.title).trim() || entry.title, bpm: tempo.trim() ? Number(tempo) : null });
    setTitle(null);
    setBpm(null);
  };
  const isTyped =
    (title !== null && title.trim() !== entry.title) || (bpm !== null && Number(bpm || 0) !== (entry.bpm ?? 0));
  return (
    <details className="mt-5 rounded-lg border border-edge bg-card p-3">
      <summary className="cursor-pointer py-1 font-bold">Name, meter, tempo</summary>
      <form
        className="mt-2 grid gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          save();
        }}
      >
        <label className="flex items-center gap-2">
          <span className="text-quiet">Name</span>
          <input
            value={title ?? entry.title}
            maxLength={200}
            onChange={(event) => setTitle(event.target.value)}
            className="min-w-0 flex-1 rounded-lg border border-edge bg-paper px-2 py-1"
          />
        </label>
        <label className="flex items-center gap-2">
          <span className="text-quiet">Beats a minute</span>
          <input
            value={tempo}
            inputMode="numeric"
            maxLength={3}
            placeholder="none"
            aria-invalid={!fits}
            onChange={(event) => setBpm(event.target.value)}
            className={`w-20 rounded-lg border bg-paper px-2 py-1 ${fits ? "border-edge" : "border-warn"}`}
          />
        </label>
        {fits ? null : (
          <p role="status" className="text-sm text-warn">
            20 to 300, or nothing
          </p>
        )}
        {isTyped ? (
          <Button type="submit" disabled={busy || !fits}>
            Keep
          </Button>
        ) : null}
        <Choice
          label="Time signature"
          value={signature}
          options={SIGNATURES.some(([key]) => key === signature) ? SIGNATURES : [[signature, signature], ...SIGNATURES]}
          onChange={(next) => {
            const [n = 4, d = 4] = next.split("/").map(Number);
            onSave({ ...head, beats: n, beat_type: d as Head["beat_type"] });
          }}
        />
        <Choice
          label="Upbeat"
          value={pickup}
          options={upbeatsIn(naming, pickup)}
          onChange={(next) => onSave({ ...head, pickup: next })}
        />
        <p className="text-sm text-quiet">What is typed stays as it is; a bar that no longer fits says so.</p>
      </form>
    </details>
  );
}
