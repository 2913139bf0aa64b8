/** The rung you stand on: what to do, how to count in, the tempo, play along, record, what next. */
import { Field, Label, Switch } from "@headlessui/react";
import { Link } from "react-router";

import type { Counts, Piece, RungProgress } from "../../api/client";
import { stateWords, statusWords } from "../../api/trade";
import { HANDS, STATE_SHAPES } from "../../lib/words";
import { Button, Choice, Problem } from "../../ui/kit";
import { TempoStepper } from "../../ui/Tempo";
import { CHANNELS, type Mix } from "../../sound/mix";
import type { Keyboards } from "../../sound/keyboard";
import { KeyboardChoice } from "./KeyboardChoice";
import type { CardChoice } from "../../session/cardChoice";
import type { PracticeSession } from "../../session/practice";
import type { State } from "../../session/state";

const HAND_LABELS: Record<string, string> = { count: "Count of", lap: "Tap", play: "Play" };

type Props = {
  piece: Piece;
  rung: RungProgress;
  counts: Counts | undefined;
  choice: CardChoice;
  onChoice: (part: Partial<CardChoice>) => void;
  passageWords: string;
  session: PracticeSession;
  state: State;
  onSimulate: () => void;
  mix: Mix;
  onMix: (mix: Mix) => void;
  onMore: () => void;
  keyboards: Keyboards;
  onPlan: () => void;
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
  passageWords,
  session,
  state,
  onSimulate,
  mix,
  onMix,
  onMore,
  keyboards,
  onPlan,
}: Props) {
  const busy = state.phase !== "idle";
  return (
    <section aria-label="This rung" className="rounded-xl border-2 border-line bg-card p-4">
      <h2 className="text-xl font-bold">{rung.title}</h2>
      <p className="mb-2 text-quiet">{rung.what}</p>
      <p className="mb-3">
        <span aria-hidden>{STATE_SHAPES[rung.state]}</span> {rung.clean_in_a_row} of {rung.clean_needed} clean takes of
        the whole piece in a row · now {passageWords}
      </p>

      <TempoChoice piece={piece} choice={choice} onChoice={onChoice} disabled={busy} />
      <p className="my-2">
        Count in{" "}
        {counts?.count_in.map((word, index) => (
          <span key={index} className={word === "&" ? "text-quiet" : "font-bold"}>
            {word}{" "}
          </span>
        ))}
      </p>

      <div
        className={[
          "my-3 grid gap-2 max-md:fixed max-md:inset-x-0 max-md:bottom-0",
          "max-md:z-10 max-md:m-0 max-md:grid-cols-2 max-md:border-t max-md:border-line max-md:bg-paper max-md:p-3",
        ].join(" ")}
      >
        <Button
          look="strong"
          keys="Space"
          className="py-3 text-lg"
          onClick={() => (busy ? session.stop() : session.play())}
          disabled={state.phase === "sending"}
        >
          {state.phase === "idle" ? "Play along" : "Stop"}
        </Button>
        <Button keys="R" className="py-3 text-lg" disabled={busy} onClick={() => session.record(choice.rounds)}>
          Record a take
        </Button>
        <div className="empty:hidden max-md:order-first max-md:col-span-2">
          <Outcome piece={piece} session={session} state={state} />
        </div>
      </div>

      {rung.key === "play" ? (
        <KeyboardChoice
          keyboards={keyboards}
          faults={choice.standIn?.faults.length ?? 0}
          onPlan={onPlan}
          disabled={busy}
        />
      ) : null}

      <div className="mt-3 grid gap-2 border-t border-line pt-3">
        <Button look="quiet" disabled={busy} onClick={() => session.listen()}>
          Listen and mark what you hear{" "}
          <kbd className="ml-1 rounded border border-current px-1.5 text-sm font-normal max-md:hidden">N</kbd>
        </Button>
        <Button look="quiet" disabled={busy} onClick={onSimulate}>
          Let the simulated student play …
        </Button>
        <Choice
          label={HAND_LABELS[rung.key] ?? "Hands"}
          value={choice.hand}
          options={HANDS}
          onChange={(hand) => onChoice({ hand })}
        />
        <div role="group" aria-label="Play along sounds" className="flex flex-wrap items-center gap-1.5 text-sm">
          <span className="text-quiet">Play along sounds</span>
          {CHANNELS.map((channel) => (
            <button
              key={channel}
              type="button"
              aria-pressed={!mix.muted[channel]}
              onClick={() => onMix({ ...mix, muted: { ...mix.muted, [channel]: !mix.muted[channel] } })}
              className={[
                "rounded border px-1.5 py-0.5",
                mix.muted[channel] ? "border-line text-quiet line-through" : "border-ink bg-here",
              ].join(" ")}
            >
              {HEARD[channel]}
            </button>
          ))}
          <button type="button" className="underline" onClick={onMore}>
            levels, rounds, echo …
          </button>
        </div>
        <Field className="flex items-center justify-between gap-2">
          <Label>Click through the take</Label>
          <Switch
            checked={choice.clickThrough}
            onChange={(clickThrough) => onChoice({ clickThrough })}
            className="h-7 w-12 rounded-full border-2 border-ink bg-card p-0.5 data-checked:bg-ink"
          >
            <span className={`block size-5 rounded-full ${choice.clickThrough ? "translate-x-5 bg-card" : "bg-ink"}`} />
          </Switch>
        </Field>
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

function TempoChoice({
  piece,
  choice,
  onChoice,
  disabled,
}: Pick<Props, "piece" | "choice" | "onChoice"> & { disabled: boolean }) {
  return (
    <TempoStepper
      beat={piece}
      bpm={choice.bpm}
      marks={piece.metronome_marks}
      disabled={disabled}
      onBpm={(bpm) => onChoice({ bpm })}
    />
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
          className="px-2.5 py-0.5"
          disabled={value <= low}
          onClick={() => onChange(value - 1)}
        >
          −
        </Button>
        <output className="w-5 text-center font-bold">{value}</output>
        <Button
          aria-label={`more: ${label}`}
          className="px-2.5 py-0.5"
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
function Outcome({ piece, session, state }: { piece: Piece; session: PracticeSession; state: State }) {
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
    <div className="rounded-lg border-2 border-ink bg-here p-3" role="status">
      <p className="text-lg font-bold first-letter:uppercase">
        {verdict ? statusWords(verdict.status) : stateWords(state.take.state)}
      </p>
      <p>{verdict ? (verdict.finding?.text ?? verdict.good[0] ?? `Lost at ${verdict.place_text}.`) : failure}</p>
      {verdict?.cure ? <p className="text-quiet">{verdict.cure.text}</p> : null}
      <Link to={`/pieces/${piece.id}/takes/${state.take.id}`} className="font-bold underline">
        See this take
      </Link>
    </div>
  );
}
