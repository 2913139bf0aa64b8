/** What listens to a take: the keys (or the screen that is tapped), or the microphone; and how each is doing. */
import { useSyncExternalStore } from "react";

import type { Piece } from "../../api/client";
import { hasClaps } from "../../ruler/layout";
import { microphone } from "../../session/microphoneEar";
import type { Keyboards } from "../../sound/keyboard";
import type { Loudness } from "../../sound/level";
import { type BeatBy, MIC_WORDS, type MicState } from "../../sound/microphone";
import { Choice } from "../../ui/Choice";
import { KeepSound } from "../../ui/sound/KeepSound";
import { Button } from "../../ui/kit";
import { KeyboardChoice } from "./KeyboardChoice";

const BY_KEYS = [
  ["keys", "a MIDI keyboard"],
  ["microphone", "the microphone"],
] as const;
const BY_TAPS = [
  ["keys", "keys or the screen"],
  ["microphone", "the microphone, for knocks"],
] as const;

export function HowHeard({
  piece,
  hands,
  activity,
  student,
  keyboards,
  disabled,
}: {
  piece: Piece;
  hands: "right" | "left" | "both";
  activity: "play" | "lap";
  /** Who plays. */
  student: number;
  keyboards: Keyboards;
  disabled: boolean;
}) {
  const state = useSyncExternalStore(microphone.subscribe, microphone.snapshot);
  const isToldApart = activity === "play" && !hasClaps(piece.ruler, hands);
  return (
    <div className="mt-2 grid grid-cols-[minmax(0,1fr)] gap-2">
      <Choice
        label="Heard by"
        value={state.isChosen ? "microphone" : "keys"}
        options={activity === "play" ? BY_KEYS : BY_TAPS}
        onChange={(by) => {
          microphone.choose(by === "microphone");
        }}
      />
      {state.isChosen ? (
        <MicrophonePanel
          state={state}
          likeClick={isToldApart ? null : activity === "play" ? "clap" : "knock"}
          student={student}
          disabled={disabled}
        />
      ) : activity === "play" ? (
        <>
          <KeyboardChoice keyboards={keyboards} disabled={disabled} />
          {isToldApart ? null : (
            <p className="text-sm text-quiet">
              Claps are heard by the microphone alone; a keyboard is not asked for them.
            </p>
          )}
        </>
      ) : null}
    </div>
  );
}

const BEATS: readonly (readonly [BeatBy, string])[] = [
  ["aloud", "aloud"],
  ["headphones", "in headphones"],
  ["eye", "by eye, in silence"],
];
const BEAT_WORDS: Record<BeatBy, string> = {
  aloud: "It listens from the first beat on, and knows the click.",
  headphones: "Only you hear it; the microphone hears the piano alone.",
  eye: "The count-in stands in large on the screen; nothing sounds.",
};

const LEVEL_WORDS: Record<Loudness, string> = {
  deaf: "Nothing is heard at all, not even the room: it may be switched off or muted.",
  waiting: "The room is quiet. Play something loud to see whether it is heard.",
  "too-quiet": "Too quiet: move it nearer to the strings.",
  good: "Good: it hears you well.",
  clipping: "Too loud: it is cut off. Move it further away.",
};

type PanelProps = {
  state: MicState;
  /** What is struck sounds too much like the click. */
  likeClick: "clap" | "knock" | null;
  student: number;
  disabled: boolean;
};

function MicrophonePanel({ state, likeClick, student, disabled }: PanelProps) {
  const { access, heard, devices } = state;
  const again = () => {
    microphone.open().catch(() => undefined); // why it could not be opened stands here
  };
  if (access !== "open")
    return (
      <div role="group" aria-label="Microphone" className="rounded-lg border border-line p-3">
        {access === "unasked" || access === "asking" ? (
          <p role="status" className="text-sm text-quiet">
            {access === "asking"
              ? "The browser asks at its top whether this page may use the microphone."
              : "The microphone is off. It is used only while this page is open, and only for takes."}
          </p>
        ) : (
          <p role="status" className="text-sm">
            <b>{MIC_WORDS[access][0]}</b> {MIC_WORDS[access].slice(1).join(" ")}
          </p>
        )}
        {access === "insecure" || access === "unsupported" ? null : (
          <Button look="quiet" disabled={disabled || access === "asking"} onClick={again}>
            {access === "unasked" || access === "asking" ? "Switch it on" : "Try again"}
          </Button>
        )}
      </div>
    );
  return (
    <div
      role="group"
      aria-label="Microphone"
      className="grid grid-cols-[minmax(0,1fr)] gap-2 rounded-lg border border-line p-3"
    >
      <div>
        <div
          role="meter"
          aria-label="Level"
          aria-valuemin={0}
          aria-valuemax={1}
          aria-valuenow={Math.round(100 * (heard?.level ?? 0)) / 100}
          className="h-3 rounded-full border border-edge"
        >
          <div className="h-full rounded-full bg-ink" style={{ width: `${100 * (heard?.level ?? 0)}%` }} />
        </div>
        <p role="status" className="text-sm">
          {heard ? LEVEL_WORDS[heard.loudness] : "Listening to the room …"}
          {heard?.isRoomLoud ? " The room is loud: soft strikes may be lost in it." : ""}
        </p>
        {state.changed.length ? (
          <p className="text-sm text-quiet">
            This browser corrects {state.changed.join(" and ")} of what it hears, though asked not to: soft strikes may
            be lost.
          </p>
        ) : null}
      </div>
      {devices.length > 1 ? (
        <Choice
          label="Microphone"
          value={state.deviceId ?? devices[0]?.id ?? ""}
          options={devices.map(({ id, name }) => [id, name] as const)}
          onChange={(id) => {
            microphone.use(id).catch(() => undefined); // as above
          }}
        />
      ) : null}
      <Choice
        label="The beat"
        value={state.beatBy}
        options={BEATS}
        onChange={(by) => {
          microphone.giveBeat(by);
        }}
      />
      <p className="text-sm text-quiet">
        {BEAT_WORDS[state.beatBy]}
        {likeClick && state.beatBy === "aloud"
          ? ` The click stops after the count-in: it sounds too much like a ${likeClick}.`
          : ""}
      </p>
      <KeepSound
        student={student}
        chosen={state.consent?.student === student ? state.consent.id : null}
        onChoose={(id) => {
          microphone.keepSound(id === null ? null : { id, student });
        }}
      />
    </div>
  );
}
