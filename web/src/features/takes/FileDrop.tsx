/** A take brought as a file: dropped anywhere on the page of its piece, or chosen. */
import { plainBpm } from "../../lib/words";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { type TakeAsked, useSendTakeFile } from "../../api/queries/takes";
import { Button, Problem } from "../../ui/kit";

export function FileDrop({
  pieceId,
  asked,
  passageWords,
}: {
  pieceId: number;
  asked: TakeAsked;
  passageWords: string;
}) {
  const send = useSendTakeFile(pieceId);
  const input = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const [over, setOver] = useState(false);
  const take = (file: File | undefined) => {
    if (!file) return;
    send.mutate(
      { file, settings: asked },
      {
        onSuccess: (stored) => {
          void navigate(`/pieces/${pieceId}/takes/${stored.id}`);
        },
      },
    );
  };
  const latest = useRef(take);
  useEffect(() => {
    latest.current = take;
  });
  useEffect(() => {
    const onOver = (event: DragEvent) => {
      event.preventDefault();
      setOver(true);
    };
    const onLeave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false);
    };
    const onDrop = (event: DragEvent) => {
      event.preventDefault();
      setOver(false);
      latest.current(event.dataTransfer?.files[0]);
    };
    window.addEventListener("dragover", onOver);
    window.addEventListener("dragleave", onLeave);
    window.addEventListener("drop", onDrop);
    return () => {
      window.removeEventListener("dragover", onOver);
      window.removeEventListener("dragleave", onLeave);
      window.removeEventListener("drop", onDrop);
    };
  }, []);
  return (
    <div
      aria-label="A take from a file"
      role="group"
      data-screen-only=""
      className={`mb-2 rounded-lg border-2 border-dashed px-3 py-2 ${over ? "border-ink bg-here" : "border-line"}`}
    >
      <input
        ref={input}
        type="file"
        accept=".mid,.midi,.json,audio/midi"
        className="sr-only"
        tabIndex={-1}
        aria-label="MIDI file of a take"
        onChange={(event) => {
          take(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      {send.isPending ? (
        "Reading and checking it …"
      ) : (
        <>
          Drop a MIDI file of a take on this page, or{" "}
          <Button look="quiet" onClick={() => input.current?.click()}>
            choose one
          </Button>
        </>
      )}
      <span className="block text-sm text-quiet">
        Checked as {asked.hands === "both" ? "both hands" : `the ${asked.hands} hand`}, {passageWords}, asked at{" "}
        {plainBpm(asked.bpm)}.
      </span>
      {send.error ? (
        <div className="mt-2">
          <Problem error={send.error} />
        </div>
      ) : null}
    </div>
  );
}
