/**
 * Together: what meets, what is held, where the hands stand and move, on the ruler; beside it where it is hardest, each
 * with its reason, leading to its place, to practising it and to lining it up.
 */
import { type ReactNode, Suspense, lazy, useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { Counts, HardPlace, Piece, TogetherMap } from "../../api/client";
import { useTogether } from "../../api/queries/score";
import { trade } from "../../api/trade";
import { type HandSpan, SPANS, handSpan, keepHandSpan } from "../../lib/handSpan";
import { loaded } from "../../lib/loading";
import type { Step } from "../../lib/liningUp";
import { keep, parsed } from "../../lib/stored";
import { RulerView } from "../../ruler/RulerView";
import type { MapOnRuler } from "../../ruler/MapLayer";
import type { RulerHandle } from "../../ruler/layout";
import { Choice } from "../../ui/Choice";
import { Button, Loading, Problem } from "../../ui/kit";
import { HardestFirst } from "./HardestFirst";
import { LineUp } from "./LineUp";
import { Aids } from "./Aids";
import { Reaches } from "./Reaches";

type Props = {
  piece: Piece;
  /** How far a hand of the student reaches for whom it is, where that is known, and who that is. */
  reach: { span: number | null; of: string };
  counts: Counts | undefined;
  onPractise: (place: HardPlace) => void;
  onLadder: ((place: HardPlace) => void) | null;
  onDrill: ((place: HardPlace) => void) | null;
  /** Says a word aloud. */
  say: (word: string) => Promise<void>;
  /** Which MIDI keyboard is heard while the hands are lined up. */
  keyboard: ReactNode;
};

const NotationMap = lazy(() => loaded(() => import("./NotationMap")).then((it) => ({ default: it.NotationMap })));

const PAGE_KEY = "laptick.together.page";

export function TogetherView(props: Props) {
  const { piece } = props;
  // A student's own, where it is known; else as this device has it.
  const known = SPANS.find(([key]) => key === String(props.reach.span))?.[0];
  const [looked, setLooked] = useState<HandSpan | null>(null);
  const span = looked ?? known ?? handSpan();
  const map = useTogether(piece.id, Number(span));
  if (map.error) return <Problem error={map.error} />;
  if (!map.data) return <Loading what="Working out what meets" />;
  const choice = (
    <Choice
      label="The hand spans"
      value={span}
      options={SPANS}
      hint={
        known === span
          ? `As far as ${props.reach.of} reaches: chords beyond it are told with what can be done.`
          : "What one hand reaches at most: chords beyond it are told with what can be done."
      }
      onChange={(key) => {
        if (!known) keepHandSpan(key);
        setLooked(key);
      }}
    />
  );
  if (piece.hands.length < 2 || !map.data.positions.length)
    return <OneHand {...props} map={map.data} spanChoice={choice} />;
  return <Mapped {...props} map={map.data} spanChoice={choice} />;
}

type MappedProps = Props & { map: TogetherMap; spanChoice: ReactNode };

/** A piece of one hand, or of rhythms without keys: what can be said is said, and why there is no more. */
function OneHand(props: MappedProps) {
  return (
    <>
      <p className="mb-3 max-w-2xl rounded-lg bg-card p-3">
        {props.piece.hands.length < 2
          ? "This piece is for one hand: nothing is to be joined. Where that hand stands and moves is told all the same."
          : "These notes have no keys, only rhythm: where the hands stand cannot be told, what meets can."}
      </p>
      <Mapped {...props} />
    </>
  );
}

function Mapped({ piece, map, counts, onPractise, onLadder, onDrill, say, keyboard, spanChoice }: MappedProps) {
  const [chosen, setChosen] = useState<HardPlace | null>(null);
  const [liningUp, setLiningUp] = useState<number | null>(null);
  const ruler = useRef<RulerHandle>(null);
  const onRuler = useMemo<MapOnRuler>(
    () => ({
      seams: map.seams,
      positions: map.positions,
      shifts: map.shifts,
      notes: new Map(map.bars.map((bar) => [bar.start_quarters, ratioWords(bar)])),
      chosen_quarters: chosen?.kind === "seam" ? chosen.to_quarters : null,
    }),
    [map, chosen],
  );
  const measures = piece.ruler.measures;
  const passage = useMemo(() => (chosen ? { from: chosen.from_bar, to: chosen.to_bar } : null), [chosen]);
  const look = useCallback(
    (place: HardPlace) => {
      setChosen(place);
      const bar = measures[place.from_bar];
      if (bar) ruler.current?.showBar(bar.start_quarters);
    },
    [measures, ruler],
  );
  const onBar = useCallback(
    (index: number) => {
      const start = measures[index]?.start_quarters;
      if (start !== undefined) setLiningUp(start);
    },
    [measures],
  );
  const showBarAt = (at_quarters: number) => {
    const bar = map.bars.findLast((one) => one.start_quarters <= at_quarters);
    if (bar) ruler.current?.showBar(bar.start_quarters);
  };
  const [step, setStep] = useState<Step | null>(null);
  const [isPage, setPage] = useState(() => parsed(PAGE_KEY) === true);
  const show = (page: boolean) => {
    keep(PAGE_KEY, page);
    setPage(page);
  };
  useEffect(() => ruler.current?.moveCursor(step?.onset_quarters ?? null), [step, isPage]);
  const close = () => {
    setLiningUp(null);
    setStep(null);
  };
  return (
    <div className="grid gap-x-8 gap-y-3 xl:grid-cols-[minmax(0,1fr)_344px]">
      <div className="min-w-0 max-xl:order-2">
        <p role="group" aria-label="Shown as" className="mb-2 flex gap-2" data-screen-only="">
          {([false, true] as const).map((page) => (
            <button
              key={String(page)}
              type="button"
              aria-pressed={isPage === page}
              onClick={() => show(page)}
              className={[
                "min-h-9 rounded-lg border px-3 pointer-coarse:min-h-11",
                isPage === page ? "border-ink bg-ink font-bold text-card" : "border-edge hover:bg-here",
              ].join(" ")}
            >
              {page ? "notation" : "ruler"}
            </button>
          ))}
        </p>
        {isPage ? (
          <Suspense fallback={<Loading what="Engraving" />}>
            <NotationMap piece={piece} map={map} step={step} />
          </Suspense>
        ) : (
          <>
            <RulerView
              ruler={piece.ruler}
              counts={counts}
              hands="both"
              map={onRuler}
              passage={passage}
              onBar={onBar}
              handle={ruler}
            />
            <MapLegend />
          </>
        )}
        {map.lines.length ? (
          <section aria-label="What comes again" className="mb-5">
            <h2 className="text-xl font-bold">What comes again</h2>
            <ul className="mt-1 space-y-1">
              {map.lines.map((words) => (
                <li key={words}>{words}</li>
              ))}
            </ul>
          </section>
        ) : null}
        <Aids aids={map.aids} onLook={showBarAt} />
        <Reaches reaches={map.reaches} />
      </div>
      <div className={`min-w-0 max-xl:order-1 ${liningUp === null ? "" : "sticky top-0 z-20 xl:static"}`}>
        <div className="xl:sticky xl:top-3">
          {liningUp !== null ? (
            <LineUp
              key={liningUp}
              map={map}
              from_quarters={liningUp}
              onStep={setStep}
              onClose={close}
              say={say}
              keyboard={keyboard}
            />
          ) : (
            <>
              <p className="mb-2">
                <b>{Math.round(map.difficulty)}</b> of 100 to join · {levelWords(map.level)}
              </p>
              <Button look="strong" className="mb-3" onClick={() => setLiningUp(0)}>
                Line up the piece
              </Button>
              {map.beyond ? <p className="mb-2 font-semibold text-warn">{map.beyond}</p> : null}
              <HardestFirst
                places={map.hardest}
                chosen={chosen}
                onLook={look}
                onLineUp={(place) => {
                  look(place);
                  setLiningUp(place.from_quarters);
                }}
                onPractise={onPractise}
                onLadder={onLadder}
                onDrill={onDrill}
              />
              <div className="mt-3">{spanChoice}</div>
            </>
          )}
        </div>
      </div>
    </div>
  );
}

/** *2 : 1*, or what it goes through, or that it is free. */
function ratioWords(bar: TogetherMap["bars"][number]): string {
  const spaced = (ratio: string) => ratio.replace(":", " : ");
  if (bar.ratio !== "free") return spaced(bar.ratio);
  return bar.mixture.length > 1 ? bar.mixture.map(spaced).join(", ") : "free";
}

const levelWords = (level: TogetherMap["level"]) => trade().levels.find((one) => one.key === level)?.words ?? level;

function MapLegend() {
  return (
    <p className="mb-5 flex flex-wrap gap-x-5 gap-y-1 text-sm text-quiet">
      <span>▼ a seam, deeper is harder</span>
      <span>a bracket is a place of the hand: the right hand’s above, the left hand’s below</span>
      <span>footprints: when it can go</span>
      <span>2 : 1 the right hand strikes two for one</span>
      <span>same letter = same rhythm</span>
      <span data-screen-only="">press a bar’s number to line it up from there</span>
    </p>
  );
}
