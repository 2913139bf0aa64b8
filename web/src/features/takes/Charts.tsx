/** A take in pictures: tempo bar by bar, the runs of equal notes, the hands where they meet. Every mark leads to its place. */
import type { ComponentProps, ReactNode } from "react";

import { isTouch } from "../../lib/device";
import { count, plainBpm } from "../../lib/words";
import type { CheckDocument, Place } from "../../api/client";

type Show = (place: Place) => void;

export function Charts({ checked, onShow }: { checked: CheckDocument; onShow: Show }) {
  return (
    <div className="mt-5 grid gap-5">
      <TempoChart checked={checked} onShow={onShow} />
      <div className="grid items-start gap-5 lg:grid-cols-2">
        <RunChart checked={checked} onShow={onShow} />
        <div className="grid min-w-0 gap-5">
          <TogetherChart checked={checked} onShow={onShow} />
          <RestCard checked={checked} onShow={onShow} />
        </div>
      </div>
    </div>
  );
}

function Card({ title, says, children }: { title: string; says: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="min-w-0 rounded-lg border border-edge bg-card p-5">
      <h2 className="font-bold">{title}</h2>
      <p className="mb-2 text-sm text-quiet">{says}</p>
      {children}
    </section>
  );
}

const HEIGHT = 112;

/** Marks closer than this leave no room to point at one of them. */
const MOST_POINTED = { tempo: 30, together: 12 };

/** A mark of a chart leads to its place; where there is no room to point at it, it is part of a picture. */
function Spot({ isNarrow, ...props }: ComponentProps<"button"> & { isNarrow: boolean }) {
  if (!isTouch() && !isNarrow) return <button type="button" {...props} />;
  return (
    <span role="img" aria-label={props["aria-label"]} title={props.title} className={props.className}>
      {props.children}
    </span>
  );
}

/** Labels closer than this would cover each other. */
const LABEL_PX = 14;

/** Where a value lies in a box whose middle is ``middle`` and whose reach is ``reach`` on both sides, in percent from the top. */
function topOf(value: number, middle: number, reach: number): number {
  return 50 - 50 * Math.max(-1, Math.min(1, (value - middle) / reach));
}

function TempoChart({ checked, onShow }: { checked: CheckDocument; onShow: Show }) {
  const { tempo, limits } = checked;
  if (tempo.per_measure.length === 0 || tempo.median_bpm === null) return null;
  const band = (tempo.assigned_bpm * limits.tempo_percent) / 100;
  const furthest = Math.max(...tempo.per_measure.map((bar) => Math.abs(bar.bpm - tempo.assigned_bpm)), band);
  const reach = 1.25 * furthest;
  return (
    <Card
      title="Tempo, bar by bar"
      says={[
        `Asked ${plainBpm(tempo.assigned_bpm)}, played ${plainBpm(tempo.median_bpm)} (the middle one of its bars).`,
        "The grey field is what the level allows.",
      ].join(" ")}
    >
      <div className="flex">
        <div className="relative w-10 shrink-0 text-xs text-quiet" style={{ height: HEIGHT }} aria-hidden>
          <span className="absolute top-1/2 right-1.5 -translate-y-1/2 font-bold text-ink">
            {plainBpm(tempo.assigned_bpm)}
          </span>
          {(band / reach) * (HEIGHT / 2) < LABEL_PX
            ? null
            : [band, -band].map((off) => (
                <span
                  key={off}
                  className="absolute right-1.5 -translate-y-1/2"
                  style={{ top: `${topOf(off, 0, reach)}%` }}
                >
                  {Math.round(tempo.assigned_bpm + off)}
                </span>
              ))}
        </div>
        <div className="relative min-w-0 flex-1" style={{ height: HEIGHT }}>
          <div
            aria-hidden
            className="absolute inset-x-0 bg-here"
            style={{ top: `${topOf(band, 0, reach)}%`, bottom: `${topOf(band, 0, reach)}%` }}
          />
          <div aria-hidden className="absolute inset-x-0 top-1/2 border-t-2 border-ink" />
          <ol className="absolute inset-0 flex">
            {tempo.per_measure.map((bar) => {
              const past = Math.abs(bar.bpm - tempo.assigned_bpm) > band;
              const top = topOf(bar.bpm, tempo.assigned_bpm, reach);
              return (
                <li
                  key={`${bar.measure}.${bar.pass}`}
                  className="relative min-w-0 flex-1 border-l border-line first:border-l-0"
                >
                  <Spot
                    isNarrow={tempo.per_measure.length > MOST_POINTED.tempo}
                    title={`bar ${bar.measure}: ${bar.bpm.toFixed(0)}`}
                    aria-label={`bar ${bar.measure}, tempo ${bar.bpm.toFixed(0)}`}
                    onClick={() => onShow({ measure: bar.measure, offset: "0", pass: bar.pass })}
                    className="absolute inset-0 hover:bg-ink/5"
                  >
                    <span
                      aria-hidden
                      className={`absolute inset-x-[12%] rounded-full ${past ? "h-2.5 -mt-[5px] bg-warn" : "h-1.5 -mt-[3px] bg-ink"}`}
                      style={{ top: `${top}%` }}
                    />
                  </Spot>
                </li>
              );
            })}
          </ol>
        </div>
      </div>
      <ol aria-hidden className="ml-13 flex text-xs text-quiet">
        {tempo.per_measure.map((bar) => (
          <li key={`${bar.measure}.${bar.pass}`} className="min-w-0 flex-1 truncate text-center">
            {bar.measure}
          </li>
        ))}
      </ol>
    </Card>
  );
}

const KINDS: Record<string, string> = {
  even: "even",
  uneven: "uneven",
  rushed: "rushed",
  limping: "long-short",
  hesitation: "one gap",
  "late-then-compensated": "late, then hurried",
};
const MOST_RUNS = 12;

/** Each run as it was played above the even run it should be. */
function RunChart({ checked, onShow }: { checked: CheckDocument; onShow: Show }) {
  const runs = checked.evenness;
  if (runs.length === 0) return null;
  // What is called even never stands above what is not, whatever the figures.
  const rank = (run: (typeof runs)[number]) => (run.kind === "even" ? 1 : 0);
  const shown = [...runs].sort((a, b) => rank(a) - rank(b) || b.cv_percent - a.cv_percent).slice(0, MOST_RUNS);
  return (
    <Card
      title="Equal notes"
      says={`${count(runs.length, "run")}, the least even first: above as played, below as written.`}
    >
      <ul className="space-y-2">
        {shown.map((run) => {
          const { played } = run;
          const whole = Math.max(
            played.reduce((sum, one) => sum + one, 0),
            played.length,
          );
          const colour = run.hand === "left" ? "bg-lefthand" : "bg-righthand";
          const ends = run.hand === "left" ? "" : "rounded-full";
          return (
            <li key={`${run.hand}${run.onset_quarters}`}>
              <button
                type="button"
                title={worstGap(run)}
                onClick={() => onShow(run.from)}
                className={[
                  "grid w-full grid-cols-[4.5rem_minmax(0,1fr)_7.5rem] items-center gap-2",
                  "rounded px-1 text-left text-sm hover:bg-here",
                ].join(" ")}
              >
                <span>bar {run.from.measure}</span>
                <span aria-hidden className="grid gap-1">
                  <span className="flex h-2.5 gap-px">
                    {played.map((one, index) => (
                      <span key={index} className={`${colour} ${ends}`} style={{ width: `${(100 * one) / whole}%` }} />
                    ))}
                  </span>
                  <span className="flex h-1.5 gap-px opacity-40">
                    {played.map((_, index) => (
                      <span key={index} className="bg-quiet" style={{ width: `${100 / whole}%` }} />
                    ))}
                  </span>
                </span>
                <span className="text-quiet">{KINDS[run.kind] ?? run.kind}</span>
              </button>
            </li>
          );
        })}
      </ul>
      {runs.length > shown.length ? (
        <p className="mt-1 text-sm text-quiet">… and {runs.length - shown.length} more even ones.</p>
      ) : null}
    </Card>
  );
}

function worstGap({ worst_gap: worst }: CheckDocument["evenness"][number]): string {
  return `the worst gap: ${Math.abs(worst.percent).toFixed(0)} % too ${worst.percent < 0 ? "short" : "long"}, in bar ${worst.measure}`;
}

function TogetherChart({ checked, onShow }: { checked: CheckDocument; onShow: Show }) {
  const gaps = checked.together.gaps;
  if (gaps.length === 0 || checked.together.median_ms === null) return null;
  const limit = checked.limits.together_ms;
  const reach = Math.max(1.6 * limit, ...gaps.map((one) => Math.abs(one.gap_ms) * 1.1));
  return (
    <Card
      title="Hands together"
      says={[
        `${count(gaps.length, "meeting")}, half of them within ${checked.together.median_ms.toFixed(0)} ms.`,
        "Above the line the left hand comes first, below it the right.",
      ].join(" ")}
    >
      <div className="relative" style={{ height: HEIGHT }}>
        <div
          aria-hidden
          className="absolute inset-x-0 bg-here"
          style={{ top: `${topOf(limit, 0, reach)}%`, bottom: `${topOf(limit, 0, reach)}%` }}
        />
        <div aria-hidden className="absolute inset-x-0 top-1/2 border-t-2 border-ink" />
        <ol className="absolute inset-0 flex">
          {gaps.map((one) => {
            const past = Math.abs(one.gap_ms) > limit;
            return (
              <li key={one.onset_quarters} className="relative min-w-0 flex-1">
                <Spot
                  isNarrow={gaps.length > MOST_POINTED.together}
                  onClick={() => onShow(one)}
                  className="absolute inset-0 hover:bg-ink/5"
                  title={`bar ${one.measure}: ${Math.abs(one.gap_ms).toFixed(0)} ms`}
                  aria-label={[
                    `bar ${one.measure}, ${one.gap_ms > 0 ? "left" : "right"} hand first`,
                    `by ${Math.abs(one.gap_ms).toFixed(0)} milliseconds`,
                  ].join(" ")}
                >
                  <span
                    aria-hidden
                    className={[
                      "absolute left-1/2 -translate-x-1/2 -translate-y-1/2 rounded-full",
                      past ? "size-2.5 bg-warn" : "size-1.5 bg-ink",
                    ].join(" ")}
                    style={{ top: `${topOf(one.gap_ms, 0, reach)}%` }}
                  />
                </Spot>
              </li>
            );
          })}
        </ol>
      </div>
    </Card>
  );
}

const MOST_RESTS = 8;

/** Every rest with the entry after it, the latest first; how long sound ran into it where key-ups are known. */
function RestCard({ checked, onShow }: { checked: CheckDocument; onShow: Show }) {
  if (checked.rests.length === 0) return null;
  const { deviation_ms: late, over_ms: over } = checked.limits;
  const worst = (rest: CheckDocument["rests"][number]) =>
    Math.max(rest.entry_ms / late, (rest.ran_over_ms ?? 0) / over);
  const shown = [...checked.rests].sort((a, b) => worst(b) - worst(a)).slice(0, MOST_RESTS);
  return (
    <Card
      title="Rests"
      says={[
        `${count(checked.rests.length, "entry", "entries")} after a rest:`,
        "when the hand came in, and how long it held on into the silence.",
      ].join(" ")}
    >
      <ul>
        {shown.map((rest) => (
          <li key={`${rest.hand}${rest.measure}.${rest.pass}.${rest.offset}`}>
            <button
              type="button"
              onClick={() => onShow(rest)}
              className={[
                "grid w-full grid-cols-[7.5rem_minmax(0,1fr)_minmax(0,1fr)] gap-2 rounded",
                "px-1 py-1 text-left text-sm hover:bg-here",
              ].join(" ")}
            >
              <span>
                bar {rest.measure}, {rest.hand}
              </span>
              <span className={rest.entry_ms > late ? "font-bold text-warn" : ""}>{moment(rest.entry_ms)}</span>
              <span className={(rest.ran_over_ms ?? 0) > over ? "font-bold text-warn" : "text-quiet"}>
                {rest.ran_over_ms === null ? "" : runsOn(rest.ran_over_ms)}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {checked.rests.length > shown.length ? (
        <p className="mt-1 text-sm text-quiet">… and {checked.rests.length - shown.length} more, nearer to the beat.</p>
      ) : null}
    </Card>
  );
}

function moment(ms: number): string {
  return Math.abs(ms) < 10 ? "on time" : `${Math.abs(ms).toFixed(0)} ms ${ms > 0 ? "late" : "early"}`;
}

function runsOn(ms: number): string {
  return ms > 0 ? `holds on ${ms.toFixed(0)} ms` : `silent ${(-ms).toFixed(0)} ms before`;
}
