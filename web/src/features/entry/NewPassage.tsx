/** Begin a passage: its name, time signature, bars and upbeat. */
import { useState } from "react";
import { useNavigate } from "react-router";

import { useAddEntry } from "../../api/queries/entry";
import { useNaming } from "../../api/queries/studio";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";
import { Button, Problem } from "../../ui/kit";
import { SIGNATURES, upbeatsIn } from "./options";

export function NewPassage({ open, onClose }: { open: boolean; onClose: () => void }) {
  const add = useAddEntry();
  const navigate = useNavigate();
  const [title, setTitle] = useState("");
  const [signature, setSignature] = useState("4/4");
  const [pickup, setPickup] = useState("0");
  const upbeats = upbeatsIn(useNaming());
  const begin = () => {
    const [beats = 4, beat_type = 4] = signature.split("/").map(Number);
    add.mutate(
      {
        title: title.trim() || "Untitled passage",
        beats,
        beat_type: beat_type as 4,
        pickup,
        bpm: null,
        bars: [{ right: [], left: [] }],
      },
      { onSuccess: (piece) => void navigate(`/pieces/${piece.id}?view=write`) },
    );
  };
  return (
    <Sheet open={open} onClose={onClose} title="Write a passage">
      <p className="mb-3 text-quiet">
        The rhythm is enough; notes can be added. It is counted and checked like any score.
      </p>
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          begin();
        }}
      >
        <label>
          <span className="text-quiet">Its name</span>
          <input
            value={title}
            maxLength={200}
            autoFocus
            onChange={(event) => setTitle(event.target.value)}
            className="mt-1 block w-full rounded-lg border border-edge bg-paper px-3 py-2"
          />
        </label>
        <Choice label="Time signature" value={signature} options={SIGNATURES} onChange={setSignature} />
        <Choice label="Upbeat" value={pickup} options={upbeats} onChange={setPickup} />
        {add.error ? <Problem error={add.error} /> : null}
        <div className="flex gap-3">
          <Button type="submit" look="strong" disabled={add.isPending}>
            Begin
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </form>
    </Sheet>
  );
}
