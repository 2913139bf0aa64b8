/** A take brought as a file, or several: dropped anywhere on the page of its piece, chosen, or recorded by the phone. */
import { count, plainBpm } from "../../lib/words";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { useSendTakeFiles } from "../../api/queries/recordings";
import type { TakeAsked } from "../../api/queries/takes";
import { newClientKey } from "../../session/pending";
import { KeepSound } from "../../ui/sound/KeepSound";
import { Button, Problem, useToast } from "../../ui/kit";

export function FileDrop({
  pieceId,
  student,
  asked,
  passageWords,
}: {
  pieceId: number;
  /** Whose takes they become. */
  student: number;
  asked: TakeAsked;
  passageWords: string;
}) {
  const [part, setPart] = useState({ index: 0, share: 0 });
  const send = useSendTakeFiles(pieceId, (index, share) => {
    setPart({ index, share });
  });
  const [consentId, setConsentId] = useState<number | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const recorder = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const toast = useToast();
  const [over, setOver] = useState(false);
  const take = (files: File[]) => {
    if (!files.length || send.isPending) return;
    const sent = files.map((file) => ({
      file,
      asked: {
        ...asked,
        filename: file.name.slice(0, 200) || "recording",
        media_type: file.type.slice(0, 100),
        device: "",
        recorder: {},
        consent_id: consentId,
        client_key: newClientKey(),
      },
    }));
    setPart({ index: 0, share: 0 });
    send.mutate(sent, {
      onSuccess: ({ takes }) => {
        const [only] = takes;
        if (files.length === 1 && only !== undefined) void navigate(`/pieces/${pieceId}/takes/${only}`);
        else if (takes.length) toast(`${count(takes.length, "take")} sent, to be judged now.`);
      },
    });
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
      latest.current([...(event.dataTransfer?.files ?? [])]);
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
  const chosen = (event: React.ChangeEvent<HTMLInputElement>) => {
    take([...(event.target.files ?? [])]);
    event.target.value = "";
  };
  const coming = send.isPending ? send.variables : [];
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
        multiple
        accept=".mid,.midi,.json,audio/*,video/webm,.m4a,.wav,.flac,.mp3,.ogg,.opus,.webm,.aac,.aiff,.caf,.amr"
        className="sr-only"
        tabIndex={-1}
        aria-label="Recording or MIDI file of a take"
        onChange={chosen}
      />
      <input
        ref={recorder}
        type="file"
        accept="audio/*"
        capture
        className="sr-only"
        tabIndex={-1}
        aria-label="Record with this device"
        onChange={chosen}
      />
      {coming.length ? (
        <Sending
          words={coming.length > 1 ? `${part.index + 1} of ${coming.length}: ${coming[part.index]?.file.name}` : "it"}
          share={part.share}
        />
      ) : null}
      {coming.length ? null : (
        <>
          Drop recordings or MIDI files of takes on this page, or{" "}
          <Button look="quiet" onClick={() => input.current?.click()}>
            choose them
          </Button>
          <span className="hidden pointer-coarse:inline">
            , or{" "}
            <Button look="quiet" onClick={() => recorder.current?.click()}>
              record with this device
            </Button>
          </span>
        </>
      )}
      <span className="block text-sm text-quiet">
        Checked as {asked.activity === "play" ? "" : "knocks on lap or lid of "}
        {asked.hands === "both" ? "both hands" : `the ${asked.hands} hand`}, {passageWords}, asked at{" "}
        {plainBpm(asked.bpm)}.
      </span>
      <KeepSound student={student} chosen={consentId} onChoose={setConsentId} />
      {send.error ? <Problem error={send.error} /> : null}
      {send.data?.refused.map(({ names, error }) => (
        <div key={String(error)} className="mt-2">
          <Problem error={error}>
            <p className="wrap-anywhere text-quiet">Not sent: {names.join(", ")}</p>
          </Problem>
        </div>
      ))}
    </div>
  );
}

function Sending({ words, share }: { words: string; share: number }) {
  return (
    <div role="status" className="wrap-anywhere">
      Sending {words} …
      <progress className="my-1 block w-full max-w-md" value={share} max={1}>
        {Math.round(100 * share)} %
      </progress>
    </div>
  );
}
