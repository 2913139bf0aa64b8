/** A take's sound, to be listened to: from any bar, slower, with the click of its beat; its shape, and where it is. */
import { type ReactNode, useEffect, useRef, useState, useSyncExternalStore } from "react";

import type { Take } from "../../../api/client";
import { RATES, TakePlayback } from "../../../sound/playback";
import { Choice } from "../../../ui/Choice";
import { Button, Dot, Problem } from "../../../ui/kit";

const RATE_WORDS = { 1: "as it was", 0.75: "three quarters", 0.5: "half" } as const;
const RATE_CHOICES = RATES.map((rate) => [String(rate), RATE_WORDS[rate]] as const);

type Props = { playback: TakePlayback; hasBeat: boolean; children: ReactNode };

/** What plays it, and how. */
export function SoundBar({ playback, hasBeat, children }: Props) {
  const state = useSyncExternalStore(playback.subscribe, playback.snapshot);
  return (
    <section aria-label="The sound of this take" data-screen-only="" className="mb-3">
      <div className="flex flex-wrap items-center gap-3">
        <Button
          look="strong"
          onClick={() => {
            playback.toggle();
          }}
        >
          {state.isPlaying ? "Pause" : "Listen to it"}
        </Button>
        <div className="w-56">
          <Choice
            label="How fast"
            value={String(state.rate)}
            options={RATE_CHOICES}
            onChange={(rate) => {
              playback.setRate(Number(rate));
            }}
          />
        </div>
        {hasBeat ? (
          <button
            type="button"
            aria-pressed={state.click}
            className="flex min-h-9 items-center gap-2 rounded-lg px-2 hover:bg-here pointer-coarse:min-h-11"
            onClick={() => {
              playback.setClick(!state.click);
            }}
          >
            <Dot isOn={state.click} /> with the click of your beat
          </button>
        ) : null}
        <span className="text-sm text-quiet">{hasBeat ? "Press a bar to hear it from there." : null}</span>
      </div>
      {children}
      {state.problem ? <Problem error={state.problem} /> : null}
    </section>
  );
}

/** What plays a take, where its sound is kept; it ends with the page. */
export function usePlayback({ recording }: Take): TakePlayback | null {
  const [playback] = useState(() =>
    recording?.can_play ? new TakePlayback(`/api/recordings/${recording.id}/playback`) : null,
  );
  useEffect(() => () => playback?.close(), [playback]);
  return playback;
}

const HEIGHT = 48;

type ShapeProps = {
  envelope: NonNullable<Take["envelope"]>;
  playback: TakePlayback | null;
  lost_s: number | null;
};

/** The shape of the sound, drawn from left to right; where it is pressed it is heard from. ``lost_s``: where the
 * place in the score was lost. */
export function SoundShape({ envelope, playback, lost_s }: ShapeProps) {
  const line = useRef<HTMLDivElement>(null);
  const seconds = envelope.levels.length * envelope.step_s;
  useEffect(
    () =>
      playback?.follow((at_s) => {
        const element = line.current;
        if (!element) return;
        element.style.visibility = at_s === null ? "hidden" : "visible";
        element.style.left = `${(100 * (at_s ?? 0)) / seconds}%`;
      }),
    [playback, seconds],
  );
  const top = envelope.levels.map((level, at) => `${at},${HEIGHT / 2 - (level / 100) * (HEIGHT / 2 - 1)}`);
  const bottom = envelope.levels.map((level, at) => `${at},${HEIGHT / 2 + (level / 100) * (HEIGHT / 2 - 1)}`).reverse();
  const heardFrom = (event: React.MouseEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    playback?.play((seconds * (event.clientX - box.left)) / box.width);
  };
  const shape = (
    <>
      <svg
        aria-hidden
        viewBox={`0 0 ${envelope.levels.length} ${HEIGHT}`}
        preserveAspectRatio="none"
        className="h-12 w-full fill-quiet"
      >
        <polygon points={[...top, ...bottom].join(" ")} />
      </svg>
      {lost_s === null ? null : (
        <div className="absolute inset-y-0 border-l-2 border-warn" style={{ left: `${(100 * lost_s) / seconds}%` }}>
          <span className={lost_s > seconds / 2 ? "absolute right-1 top-0" : "absolute left-1 top-0"}>
            <span className="bg-paper px-1 text-sm font-bold whitespace-nowrap text-warn">lost here</span>
          </span>
        </div>
      )}
      <div ref={line} className="invisible absolute inset-y-0 w-0.5 bg-ink" />
    </>
  );
  const look = "relative mt-2 block w-full overflow-hidden rounded-lg border border-line";
  const lost = lost_s === null ? "" : `, lost at ${clock(lost_s)}`;
  const words = `The shape of the sound, ${clock(seconds)} long${lost}`;
  return playback ? (
    <button
      type="button"
      className={look}
      aria-label={`${words}: press where it is to be heard from`}
      onClick={heardFrom}
    >
      {shape}
    </button>
  ) : (
    <div className={look} role="img" aria-label={words}>
      {shape}
    </div>
  );
}

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.round(seconds) % 60).padStart(2, "0")}`;
