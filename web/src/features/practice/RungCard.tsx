/** The rung you stand on: what to do, how to count in, the tempo, play along, record, what next. */
import { Field, Label, Switch } from "@headlessui/react";
import type { ReactNode } from "react";
import { Link } from "react-router";

import type { Counts, Piece, RungProgress } from "../../api/client";
import { stateWords, statusWords } from "../../api/trade";
import { HANDS, STATE_SHAPES } from "../../lib/words";
import { Choice } from "../../ui/Choice";
import { FOOT_LOOK, START_LOOK } from "../../ui/foot";
import { Button, Dot, Problem } from "../../ui/kit";
import { TempoStepper } from "../../ui/Tempo";
import { CHANNELS, type Mix } from "../../sound/mix";
import type { Keyboards } from "../../sound/keyboard";
import { KeyboardChoice } from "./KeyboardChoice";
import type { CardChoice } from "../../session/cardChoice";
import type { PracticeSession } from "../../session/practice";
import type { Standing } from "../../session/state";

/** What the choice of hands means, said on first use. */
const HAND_HINTS: Record<string, string> = {
  count: "Whose rhythm is counted: one hand’s, or what both make together.",
  lap: "Which hands tap; the other one rests.",
  play: "Which hands play; the other one rests.",
};
const HAND_LABELS: Record<string, string> = { count: "Count of", lap: "Tap", play: "Play" };

type Props = {
  piece: Piece;
  rung: RungProgress;
  counts: Counts | undefined;
  choice: CardChoice;
  onChoice: (part: Partial<CardChoice>) => void;
  /** What a take is of; whether it may go round; both as the passage is chosen. */
  takeWords: string;
  canGoRound: boolean;
  session: PracticeSession;
  state: Standing;
  mix: Mix;
  onMix: (mix: Mix) => void;
  onMore: () => void;
  keyboards: Keyboards;
  /** Whether the play-along goes onto the stand. */
  stand: ReactNode;
};

const HEARD = {
  count: "count",
  click: "click",
  backing: "backing",
  right: "right hand",
  left: "left hand",
  cue: "cue words",
} as const;

export function RungCard({
  piece,
  rung,
  counts,
  choice,
  onChoice,
  takeWords,
  canGoRound,
  session,
  state,
  mix,
  onMix,
  onMore,
  keyboards,
  stand,
}: Props) {
  const busy = state.phase !== "idle";
  return (
    <section data-screen-only="" aria-label="This rung" className="rounded-lg bg-card p-5">
      <h2 className="text-lg font-bold">{rung.title}</h2>
      <p className="mb-2 text-quiet">{rung.what}</p>

      <div className={FOOT_LOOK} data-foot="">
        <div className="empty:hidden max-xl:max-h-[40dvh] max-xl:overflow-y-auto">
          <Outcome piece={piece} session={session} state={state} />
        </div>
        <div className="grid gap-2 max-xl:grid-cols-[auto_1fr_1fr] max-xl:items-center">
          <TempoStepper
            beat={piece}
            bpm={choice.bpm}
            marks={piece.metronome_marks}
            disabled={busy}
            onBpm={(bpm) => onChoice({ bpm })}
          />
          <Button
            look="strong"
            keys="Space"
            className={START_LOOK}
            onClick={() => (busy ? session.stop() : session.play())}
            disabled={state.phase === "sending"}
          >
            {state.phase === "idle" ? "Play along" : "Stop"}
          </Button>
          <Button keys="R" className={START_LOOK} disabled={busy} onClick={() => session.record(choice.rounds)}>
            Record
            <span className="sr-only"> a take</span>
          </Button>
        </div>
      </div>

      <p>
        Count in{" "}
        {counts?.count_in.map((word, index) => (
          <span key={index} className={word === "&" ? "text-quiet" : "font-bold"}>
            {word}{" "}
          </span>
        ))}
      </p>
      <p className="mb-3 text-quiet">
        <span aria-hidden>{STATE_SHAPES[rung.state]}</span> {rung.clean_in_a_row} of {rung.clean_needed} clean takes of
        the whole piece in a row · now {takeWords}
      </p>

      {rung.key === "play" ? <KeyboardChoice keyboards={keyboards} disabled={busy} /> : null}

      <div className="mt-3 grid gap-2 border-t border-line pt-3">
        <Choice
          label={HAND_LABELS[rung.key] ?? "Hands"}
          value={choice.hand}
          options={HANDS}
          hint={HAND_HINTS[rung.key] ?? "Which hand this rung is played with."}
          onChange={(hand) => onChoice({ hand })}
        />
        <Button disabled={busy} onClick={() => session.listen()}>
          Listen and mark slips{" "}
          <kbd className="ml-1 rounded-sm border border-current px-1 text-sm font-normal max-md:hidden">N</kbd>
        </Button>
        <div role="group" aria-label="Play along sounds" className="flex flex-wrap items-center gap-1">
          <span className="basis-full text-quiet">Play along sounds</span>
          {CHANNELS.map((channel) => (
            <button
              key={channel}
              type="button"
              aria-pressed={!mix.muted[channel]}
              onClick={() => onMix({ ...mix, muted: { ...mix.muted, [channel]: !mix.muted[channel] } })}
              className="flex min-h-9 items-center gap-2 rounded-lg px-2 hover:bg-here pointer-coarse:min-h-11"
            >
              <Dot isOn={!mix.muted[channel]} />
              {HEARD[channel]}
            </button>
          ))}
          <Button look="quiet" onClick={onMore}>
            levels, rounds, echo …
          </Button>
        </div>
        {stand}
        <Field className="flex min-h-9 items-center justify-between gap-2 pointer-coarse:min-h-11">
          <Label>Click through the take</Label>
          <Switch
            checked={choice.clickThrough}
            onChange={(clickThrough) => onChoice({ clickThrough })}
            className="flex h-9 w-14 items-center justify-end pointer-coarse:h-11"
          >
            <Dot isOn={choice.clickThrough} />
          </Switch>
        </Field>
        {canGoRound ? (
          <Field className="flex min-h-9 items-center justify-between gap-2 pointer-coarse:min-h-11">
            <Label>Four times round, as one take</Label>
            <Switch
              checked={choice.isRound}
              onChange={(isRound) => onChoice({ isRound })}
              className="flex h-9 w-14 items-center justify-end pointer-coarse:h-11"
            >
              <Dot isOn={choice.isRound} />
            </Switch>
          </Field>
        ) : null}
        <Stepper
          label="Hands-free rounds"
          value={choice.rounds}
          low={1}
          high={10}
          onChange={(rounds) => onChoice({ rounds })}
        />
      </div>
    </section>
  );
}

function Stepper({
  label,
  value,
  low,
  high,
  onChange,
}: {
  label: string;
  value: number;
  low: number;
  high: number;
  onChange: (value: number) => void;
}) {
  return (
    <div className="flex items-center justify-between gap-2" role="group" aria-label={label}>
      <span>{label}</span>
      <span className="flex items-center gap-2">
        <Button
          aria-label={`fewer: ${label}`}
          className="px-3 py-1"
          disabled={value <= low}
          onClick={() => onChange(value - 1)}
        >
          −
        </Button>
        <output className="w-5 text-center font-bold">{value}</output>
        <Button
          aria-label={`more: ${label}`}
          className="px-3 py-1"
          disabled={value >= high}
          onClick={() => onChange(value + 1)}
        >
          +
        </Button>
      </span>
    </div>
  );
}

/** What came of the last start: a problem, a take that could not be sent, or the verdict in short. */
function Outcome({ piece, session, state }: { piece: Piece; session: PracticeSession; state: Standing }) {
  if (state.problem) {
    return (
      <Problem error={state.problem}>
        {state.unsent ? (
          <p className="mt-2">
            The take is kept on this device.{" "}
            <Button look="quiet" onClick={() => session.sendAgain()}>
              Send it again
            </Button>
          </p>
        ) : null}
      </Problem>
    );
  }
  if (!state.take) return null;
  const { verdict, failure } = state.take;
  return (
    <div className="rounded-lg bg-here p-3" role="status">
      <p className="text-lg font-bold first-letter:uppercase">
        {verdict ? statusWords(verdict.status) : stateWords(state.take.state)}
      </p>
      <p>
        {verdict
          ? (verdict.finding?.text ?? verdict.good[0] ?? `Lap Tick lost its place at ${verdict.place_text}.`)
          : failure}
      </p>
      {verdict?.cure ? <p className="text-quiet">{verdict.cure.text}</p> : null}
      <Link to={`/pieces/${piece.id}/takes/${state.take.id}`} className="font-bold underline">
        See this take
      </Link>
    </div>
  );
}
