/** How it sounds and is taken down, for a rung and freely: below what starts it. */
import { Field, Label, Switch } from "@headlessui/react";
import type { ReactNode } from "react";

import type { CardChoice } from "../../session/cardChoice";
import type { PracticeSession } from "../../session/practice";
import { CHANNELS, type Mix } from "../../sound/mix";
import { Button, Dot } from "../../ui/kit";

const HEARD = {
  count: "count",
  click: "click",
  backing: "backing",
  right: "right hand",
  left: "left hand",
  cue: "cue words",
} as const;

type Props = {
  choice: CardChoice;
  onChoice: (part: Partial<CardChoice>) => void;
  rounds: number;
  onRounds: (rounds: number) => void;
  mix: Mix;
  onMix: (mix: Mix) => void;
  onMore: () => void;
  session: PracticeSession;
  busy: boolean;
  canGoRound: boolean;
  /** Whether the play-along goes onto the stand. */
  stand: ReactNode;
};

export function TakeSettings(props: Props) {
  const { choice, onChoice, rounds, onRounds, mix, onMix, onMore, session, busy, canGoRound, stand } = props;
  return (
    <div className="grid gap-2">
      <Stepper label="Hands-free rounds" value={rounds} low={1} high={10} onChange={onRounds} />
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
      <OnOff
        label="Click through the take"
        isOn={choice.clickThrough}
        onChange={(clickThrough) => onChoice({ clickThrough })}
      />
      <OnOff label="Say aloud what came of it" isOn={choice.isSpoken} onChange={(isSpoken) => onChoice({ isSpoken })} />
      {canGoRound ? (
        <OnOff
          label="Four times round, as one take"
          isOn={choice.isRound}
          onChange={(isRound) => onChoice({ isRound })}
        />
      ) : null}
      <Button disabled={busy} onClick={() => session.listen()}>
        Listen and mark slips{" "}
        <kbd className="ml-1 rounded-sm border border-current px-1 text-sm font-normal max-md:hidden">N</kbd>
      </Button>
    </div>
  );
}

function OnOff({ label, isOn, onChange }: { label: string; isOn: boolean; onChange: (on: boolean) => void }) {
  return (
    <Field className="flex min-h-9 items-center justify-between gap-2 pointer-coarse:min-h-11">
      <Label>{label}</Label>
      <Switch checked={isOn} onChange={onChange} className="flex h-9 w-14 items-center justify-end pointer-coarse:h-11">
        <Dot isOn={isOn} />
      </Switch>
    </Field>
  );
}

type StepperProps = { label: string; value: number; low: number; high: number; onChange: (value: number) => void };

function Stepper({ label, value, low, high, onChange }: StepperProps) {
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
