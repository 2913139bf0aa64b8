/** Tempos: the note that is counted, drawn, and how often it comes a minute. */
import { plainBpm } from "../lib/words";
import { Button } from "./kit";

type Shape = { open: boolean; stem: boolean; flag: boolean; dotted: boolean };

/** Length in quarters → how its note is drawn. */
const BEAT_SHAPES: Record<string, Shape> = {
  "4": { open: true, stem: false, flag: false, dotted: false },
  "3": { open: true, stem: true, flag: false, dotted: true },
  "2": { open: true, stem: true, flag: false, dotted: false },
  "3/2": { open: false, stem: true, flag: false, dotted: true },
  "1": { open: false, stem: true, flag: false, dotted: false },
  "3/4": { open: false, stem: true, flag: true, dotted: true },
  "1/2": { open: false, stem: true, flag: true, dotted: false },
};

/** A beat's note, drawn: text fonts need not have one. */
export function BeatNote({ quarters, name, size = 22 }: { quarters: string; name: string; size?: number }) {
  const shape = BEAT_SHAPES[quarters];
  if (!shape) return <>{name}</>;
  const { open, stem, flag, dotted } = shape;
  return (
    <svg
      viewBox="0 0 20 24"
      width={(size * 20) / 24}
      height={size}
      role="img"
      aria-label={name}
      className="inline-block align-[-0.25em]"
    >
      <ellipse
        cx="6.5"
        cy="19"
        rx="5"
        ry="3.6"
        transform="rotate(-22 6.5 19)"
        fill={open ? "none" : "currentColor"}
        stroke="currentColor"
        strokeWidth="1.8"
      />
      {!stem ? null : <path d="M11 18V2.5" stroke="currentColor" strokeWidth="1.8" />}
      {flag ? <path d="M11 2.5c1 4 5.500 4 5 9" stroke="currentColor" strokeWidth="1.8" fill="none" /> : null}
      {dotted ? <circle cx="15.500" cy="18" r="1.8" fill="currentColor" /> : null}
    </svg>
  );
}

type Beat = { beat_quarters: string; beat_name: string; unit_name: string | null };

/** A tempo with the note it counts; where a bar's beats are unequal (5/8, 7/8), what its unit comes to as well. */
export function TempoMark({ beat, bpm, size = 22 }: { beat: Beat; bpm: number; size?: number }) {
  return (
    <span className="whitespace-nowrap">
      <BeatNote quarters={beat.beat_quarters} name={beat.beat_name} size={size} /> = {plainBpm(bpm)}
      {beat.unit_name ? (
        <span className="text-sm font-normal text-quiet">
          {" "}
          ({beat.unit_name} = {plainBpm(2 * bpm)})
        </span>
      ) : null}
    </span>
  );
}

type StepperProps = {
  beat: Beat;
  bpm: number;
  marks: readonly number[];
  disabled?: boolean;
  onBpm: (bpm: number) => void;
  children?: React.ReactNode;
};

/** A tempo that goes from mark to mark of the metronome. */
export function TempoStepper({ beat, bpm, marks, disabled = false, onBpm, children }: StepperProps) {
  const slower = marks.findLast((mark) => mark < bpm);
  const faster = marks.find((mark) => mark > bpm);
  return (
    <div className="flex items-center gap-1">
      <span className="mr-auto text-2xl font-bold max-md:text-lg" aria-live="polite">
        <TempoMark beat={beat} bpm={bpm} />
      </span>
      <Button
        aria-label="Slower, one mark"
        className="px-3"
        disabled={disabled || slower === undefined}
        onClick={() => slower && onBpm(slower)}
      >
        −
      </Button>
      <Button
        aria-label="Faster, one mark"
        className="px-3"
        disabled={disabled || faster === undefined}
        onClick={() => faster && onBpm(faster)}
      >
        +
      </Button>
      {children}
    </div>
  );
}
