/** Play along, echo, hear it: tempo, what sounds, rounds, silences; and what is being counted now. */
import type { ReactNode } from "react";

import type { Counts, HandChoice, Piece, Schemas } from "../../api/client";
import { levelsText } from "../../sound/mix";
import { HANDS, count } from "../../lib/words";
import { Choice } from "../../ui/Choice";
import { MadeLink } from "../../ui/long/MadeLink";
import { Button, Problem } from "../../ui/kit";
import { TempoStepper } from "../../ui/Tempo";
import { FOOT_LOOK, START_LOOK } from "../../ui/foot";
import type { PracticeSession } from "../../session/practice";
import { useNow } from "../../session/current";
import type { Standing, State } from "../../session/state";
import { BETWEENS, ECHO_BYS, ECHO_INS, MODES, type PlayChoice, QUIETS, ROUNDS, queryOf } from "../../session/choice";
import { type TapTempo, tapped } from "../../session/tapTempo";
import { Mixer, OneOf } from "./Mixer";

type Props = {
  piece: Piece;
  options: Schemas["PlayOptions"];
  counts: Counts | undefined;
  choice: PlayChoice;
  onChoice: (part: Partial<PlayChoice>) => void;
  bpm: number;
  onBpm: (bpm: number) => void;
  tapTempo: TapTempo;
  hand: HandChoice;
  onHand: (hand: HandChoice) => void;
  measures: string | null;
  passageWords: string;
  session: PracticeSession;
  state: Standing;
  /** Whether the play-along goes onto the stand. */
  stand: ReactNode;
};

export function PlayCard(props: Props) {
  const { piece, choice, onChoice, bpm, hand, session, state, options } = props;
  const playing = state.phase === "playing";
  return (
    <section data-screen-only="" aria-label="Play along" className="rounded-lg bg-card p-5">
      <div>
        <OneOf label="What is played" value={choice.mode} options={MODES} onChange={(mode) => onChoice({ mode })} />
        <div className="max-xl:hidden">
          <Now {...props} />
        </div>
        <div data-foot="" className={FOOT_LOOK}>
          {state.problem ? <Problem error={state.problem} /> : null}
          <div className="grid gap-2 max-xl:grid-cols-[auto_1fr] max-xl:items-center">
            <div className={playing ? "max-xl:hidden" : ""}>
              <Tempo {...props} />
            </div>
            {playing ? (
              <div className="xl:hidden">
                <Heard pieceId={piece.id} mode={choice.mode} />
              </div>
            ) : null}
            <Button
              look="strong"
              keys="Space"
              className={START_LOOK}
              disabled={state.phase !== "idle" && !playing}
              onClick={() => (playing ? session.stop() : session.play())}
            >
              {playing ? "Stop" : START_WORDS[choice.mode]}
            </Button>
          </div>
        </div>
        {state.remarks.map((remark) => (
          <p key={remark} role="status" className="mb-2 rounded-lg bg-here px-2 py-1 text-sm">
            {remark}
          </p>
        ))}
        {props.stand}
      </div>
      <div>
        <Mixer mix={choice.mix} hands={hand} caution={options.caution} onMix={(mix) => onChoice({ mix })} />
        <Files
          piece={piece}
          query={queryOf(choice, { bpm, hands: hand, measures: props.measures })}
          levels={levelsText(choice.mix)}
        />
        <Exact pieceId={piece.id} />
      </div>
    </section>
  );
}

/** What is counted now and whose turn it is, in a line. */
function Heard({ pieceId, mode }: { pieceId: number; mode: PlayChoice["mode"] }) {
  const now = useNow(pieceId);
  return (
    <p className="flex items-baseline gap-3">
      <b className="min-w-13 text-2xl">{heardNow(now)}</b>
      <span>{turnOf(mode, now)}</span>
    </p>
  );
}

/** In which order and how it is played: one line of choices over the ruler. */
export function PlayChoices(
  props: Pick<Props, "piece" | "options" | "choice" | "onChoice" | "bpm" | "hand" | "onHand">,
) {
  const { choice, onChoice, hand, options } = props;
  return (
    <div
      data-screen-only=""
      role="group"
      aria-label="How it is played"
      className="mb-3 flex flex-wrap items-center gap-x-5 gap-y-2"
    >
      <Choice label="Hands" value={hand} options={HANDS} onChange={props.onHand} />
      {choice.mode === "play" ? <RoundChoices choice={choice} onChoice={onChoice} /> : null}
      {choice.mode === "echo" ? (
        <>
          <Choice
            label="A turn is"
            value={choice.echoBy}
            options={ECHO_BYS}
            onChange={(echoBy) => onChoice({ echoBy })}
          />
          <Choice
            label="given in"
            value={choice.echoIn}
            options={ECHO_INS}
            onChange={(echoIn) => onChoice({ echoIn })}
          />
        </>
      ) : null}
      {choice.mode === "hear" ? <SlowTempo {...props} /> : null}
      {choice.mode === "hear" ? null : (
        <Choice
          label="Backing"
          value={choice.groove}
          options={[["auto", "as the meter has it"], ...options.grooves.map(({ key, words }) => [key, words] as const)]}
          onChange={(groove) =>
            onChoice({ groove, mix: { ...choice.mix, muted: { ...choice.mix.muted, backing: false } } })
          }
        />
      )}
      <Choice
        label="Hands sound as"
        value={choice.knocks ? "knocks" : "tones"}
        options={[
          ["tones", "tones"],
          ["knocks", "knocks: rhythm alone"],
        ]}
        onChange={(kind) => onChoice({ knocks: kind === "knocks" })}
      />
    </div>
  );
}

const START_WORDS = { play: "Play along", echo: "Start the echo", hear: "Hear it" } as const;

const WHAT = {
  play: "Counted in, then together.",
  echo: "First it plays, then there is equal room for you.",
  hear: "Once at the tempo, once slowly. Only listen.",
} as const;

const heardNow = (state: State) => state.saying ?? state.counting ?? "…";

function turnOf(mode: PlayChoice["mode"], state: State): string {
  if (state.saying !== null) return "Count in";
  if (mode === "play") return "Together";
  return state.role === "room" ? "Your turn" : "Listen";
}

/** Before: what will happen. While it plays: whose turn it is and the count, large. */
function Now({ piece, counts, choice, state, passageWords }: Props) {
  if (state.phase !== "playing") {
    return (
      <p className="my-2 text-quiet md:min-h-26">
        {WHAT[choice.mode]} Now:{" "}
        {choice.mode === "hear" && passageWords === "whole piece" ? "the whole piece" : passageWords}.{" "}
        {counts?.count_in.length ? (
          <>
            Count in{" "}
            {counts.count_in.map((word, index) => (
              <span key={index} className={word === "&" ? "" : "font-bold text-ink"}>
                {word}{" "}
              </span>
            ))}
          </>
        ) : null}
      </p>
    );
  }
  return <Turn pieceId={piece.id} mode={choice.mode} />;
}

function Turn({ pieceId, mode }: { pieceId: number; mode: PlayChoice["mode"] }) {
  const now = useNow(pieceId);
  return (
    <div className={`my-2 min-h-26 rounded-lg p-2 text-center ${now.role === "room" ? "bg-here" : ""}`}>
      <p className="flex justify-between text-sm" role="status">
        <span className="font-bold">{turnOf(mode, now)}</span>
        <span className="text-quiet">{now.stretches > 1 ? `${now.stretch + 1} of ${now.stretches}` : ""}</span>
      </p>
      <p aria-live="off" className="text-5xl leading-tight font-bold">
        {heardNow(now)}
      </p>
    </div>
  );
}

function Tempo({ piece, bpm, onBpm, tapTempo }: Props) {
  return (
    <TempoStepper beat={piece} bpm={bpm} marks={piece.metronome_marks} onBpm={onBpm}>
      <Button
        keys="T"
        className="px-2"
        title="Tap the tempo, three times or more"
        onClick={(event) => tapped(tapTempo, event.timeStamp, onBpm)}
      >
        Tap
      </Button>
    </TempoStepper>
  );
}

function RoundChoices({ choice, onChoice }: Pick<Props, "choice" | "onChoice">) {
  return (
    <>
      <Choice
        label="Rounds"
        value={String(choice.rounds)}
        options={ROUNDS}
        onChange={(rounds) => onChoice({ rounds: Number(rounds) })}
      />
      {choice.rounds > 1 ? (
        <Choice
          label="each next one"
          value={choice.between}
          options={BETWEENS}
          onChange={(between) => onChoice({ between })}
        />
      ) : null}
      {choice.rounds > 1 && choice.between === "gap" ? (
        <div role="group" aria-label="Gap" className="flex items-center justify-between gap-2">
          <span className="text-quiet">Gap</span>
          <span className="flex items-center gap-2">
            <Button
              aria-label="shorter gap"
              className="px-3 py-1"
              disabled={choice.gapBeats <= 0}
              onClick={() => onChoice({ gapBeats: choice.gapBeats - 1 })}
            >
              −
            </Button>
            <output className="font-bold">{count(choice.gapBeats, "beat")}</output>
            <Button
              aria-label="longer gap"
              className="px-3 py-1"
              disabled={choice.gapBeats >= 16}
              onClick={() => onChoice({ gapBeats: choice.gapBeats + 1 })}
            >
              +
            </Button>
          </span>
        </div>
      ) : null}
      <Choice
        label="Click drops out"
        value={`${choice.quietBars}/${choice.quietOf}`}
        options={QUIETS}
        onChange={(quiet) => {
          const [quietBars = 0, quietOf = 1] = quiet.split("/").map(Number);
          onChoice({ quietBars, quietOf });
        }}
      />
    </>
  );
}

function SlowTempo({ piece, bpm, choice, onChoice }: Pick<Props, "piece" | "bpm" | "choice" | "onChoice">) {
  const slower = piece.metronome_marks.filter((mark) => mark < bpm);
  return (
    <Choice
      label="Then slowly at"
      value={choice.slowBpm ? String(choice.slowBpm) : "auto"}
      options={[["auto", "ten marks slower"], ...slower.map((mark) => [String(mark), String(mark)] as const)]}
      onChange={(mark) => onChoice({ slowBpm: mark === "auto" ? null : Number(mark) })}
    />
  );
}

function Files({ piece, query, levels }: { piece: Piece; query: Record<string, unknown>; levels: string }) {
  const address = (format: string) => {
    const asked = Object.entries({ ...query, levels, format }).map(([key, value]) => [key, String(value)]);
    return `/api/pieces/${piece.id}/sound?${new URLSearchParams(asked)}`;
  };
  return (
    <p className="mt-3 border-t border-line pt-2 text-sm">
      As it sounds now, as a file:{" "}
      <MadeLink href={address("wav")} download>
        WAV
      </MadeLink>{" "}
      ·{" "}
      <MadeLink href={address("mid")} download>
        MIDI
      </MadeLink>
    </p>
  );
}

/** The measurement of this machine's sound, while it plays and after. */
function Exact({ pieceId }: { pieceId: number }) {
  const exact = useNow(pieceId).exactness;
  return (
    <details className="mt-2 text-sm">
      <summary className="cursor-pointer">How exact is the sound here?</summary>
      {exact && exact.clicks + exact.missed > 0 ? (
        <p className="mt-1" data-exactness={JSON.stringify(exact)}>
          {count(exact.clicks, "click")} measured as rendered: the furthest lay {exact.furthest_ms.toFixed(2)} ms from
          the schedule
          {exact.missed ? `, ${exact.missed} not rendered` : ", none missing"}. In {exact.minutes.toFixed(1)} min the
          sound’s clock and this page’s moved {Math.abs(exact.drift_ms).toFixed(1)} ms apart.
        </p>
      ) : (
        <p className="mt-1 text-quiet">
          Every click is measured in the sound itself while it plays. Play something with the click on, then look here.
        </p>
      )}
    </details>
  );
}
