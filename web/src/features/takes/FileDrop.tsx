/** A take brought as a file, or several: dropped anywhere on the page of its piece, chosen, or recorded by the phone. */
import { count, plainBpm } from "../../lib/words";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { useSendRecordings } from "../../api/queries/recordings";
import { type TakeAsked, useSendTakeFile } from "../../api/queries/takes";
import { newClientKey } from "../../session/pending";
import { KeepSound } from "../../ui/sound/KeepSound";
import { Button, Problem, useToast } from "../../ui/kit";

/** Files of strikes; everything else that comes is taken for a recording, and the server says if it is none. */
const isStrikes = (file: File) => /\.(midi?|json)$/i.test(file.name);

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
  const strikes = useSendTakeFile(pieceId);
  const [part, setPart] = useState({ index: 0, share: 0 });
  const recordings = useSendRecordings(pieceId, (index, share) => {
    setPart({ index, share });
  });
  const [consentId, setConsentId] = useState<number | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const recorder = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const toast = useToast();
  const [over, setOver] = useState(false);
  const isBusy = strikes.isPending || recordings.isPending;
  const open = (takeId: number) => void navigate(`/pieces/${pieceId}/takes/${takeId}`);
  const take = (files: File[]) => {
    const [first] = files;
    if (!first || isBusy) return;
    if (files.length === 1 && isStrikes(first)) {
      strikes.mutate({ file: first, settings: asked }, { onSuccess: (stored) => open(stored.id) });
      return;
    }
    const sounds = files
      .filter((file) => !isStrikes(file))
      .map((sound) => ({
        sound,
        asked: {
          ...asked,
          filename: sound.name.slice(0, 200) || "recording",
          media_type: sound.type.slice(0, 100),
          device: "",
          recorder: {},
          consent_id: consentId,
          client_key: newClientKey(),
        },
      }));
    setPart({ index: 0, share: 0 });
    recordings.mutate(sounds, {
      onSuccess: (takes) => {
        const [only] = takes;
        if (takes.length === 1 && only !== undefined) open(only);
        else toast(`${count(takes.length, "recording")} sent; they are listened to now.`);
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
  const error = strikes.error ?? recordings.error;
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
      {strikes.isPending ? "Reading and checking it …" : null}
      {recordings.isPending ? (
        <Sending
          name={recordings.variables.length > 1 ? `${part.index + 1} of ${recordings.variables.length}` : null}
          share={part.share}
        />
      ) : null}
      {isBusy ? null : (
        <>
          Drop recordings or a MIDI file of a take on this page, or{" "}
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
      {error ? (
        <div className="mt-2">
          <Problem error={error} />
        </div>
      ) : null}
    </div>
  );
}

function Sending({ name, share }: { name: string | null; share: number }) {
  return (
    <div role="status">
      Sending the recording{name ? ` ${name}` : ""} …
      <progress className="my-1 block w-full max-w-md" value={share} max={1}>
        {Math.round(100 * share)} %
      </progress>
    </div>
  );
}
