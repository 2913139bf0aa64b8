/** The count of a piece: ruler or notation with the counts, the choices, what to look out for, and everything
 * that was changed by hand, each visible and removable. */
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";

import type { Choices, Count, Counts, HandChoice, Piece } from "../../api/client";
import { useCounts, usePieceChoices, usePutChoices } from "../../api/queries/pieces";
import { fetchNotation } from "../../api/queries/score";
import { Rows } from "../../notation/Rows";
import { useRows } from "../../notation/useRows";
import { useNaming } from "../../api/queries/studio";
import { useDraft } from "../../lib/draft";
import { HANDS } from "../../lib/words";
import { RulerView } from "../../ruler/RulerView";
import type { Mark, RulerHandle } from "../../ruler/layout";
import { Choice } from "../../ui/Choice";
import { Button, Loading, Problem } from "../../ui/kit";
import { BarChoices, layerWords, withBar } from "./BarChoices";
import { CountPanel } from "./CountPanel";
import { CountSheet } from "./CountSheet";

/** Traps, and changes of what a beat is divided into, at their beats. */
function marksOf(counts: Counts | undefined): Mark[] {
  if (!counts) return [];
  return [
    ...counts.traps.map((trap) => ({ onset_quarters: trap.onset_quarters, text: trap.text, kind: "trap" as const })),
    ...counts.changes.map((change) => ({
      onset_quarters: change.onset_quarters,
      text: change.after,
      kind: "change" as const,
    })),
  ].sort((a, b) => a.onset_quarters - b.onset_quarters);
}

const placeOf = (count: Count) => `${count.measure} ${count.offset}`;

type Look = "ruler" | "notation";

type Props = {
  piece: Piece;
  bpm: number;
  /** The order of the bars, in a line above the ruler. */
  roadmapLine: ReactNode;
  /** A way to hear a word. */
  sayIt: (word: string) => ReactNode;
};

export function CountView({ piece, bpm, roadmapLine, sayIt }: Props) {
  const [keptHand, setHand] = useDraft(`count.${piece.id}.hand`);
  const hand = HANDS.find(([key]) => key === keptHand)?.[0] ?? "both";
  const [look, setLook] = useState<Look>("ruler");
  const [chosenAt, setChosenAt] = useDraft(`count.${piece.id}.chosen`);
  const counts = useCounts(piece.id, bpm, hand);
  const chosen = chosenAt === null ? undefined : counts.data?.counts.find((one) => placeOf(one) === chosenAt);
  const setChosen = (one: Count | null) => setChosenAt(one && placeOf(one));
  const step = (by: number) => {
    const all = counts.data?.counts ?? [];
    const at = all.findIndex((one) => one === chosen);
    const next = all[at + by];
    if (at >= 0 && next) setChosen(next);
  };
  const ruler = useRef<RulerHandle>(null);
  const marks = useMemo(() => marksOf(counts.data), [counts.data]);
  const showBar = (onset: number) => {
    const bar = piece.ruler.measures.findLast((m) => m.start_quarters <= onset);
    if (bar) ruler.current?.showBar(bar.start_quarters);
  };
  return (
    <div className="grid gap-x-8 gap-y-5 xl:grid-cols-[minmax(0,1fr)_360px]">
      <div className="min-w-0">
        <div className="mb-3 flex flex-wrap items-start gap-3">
          <div className="min-w-0 flex-1 basis-60">
            <Choice
              label="Count of"
              value={hand}
              options={HANDS}
              hint="Whose rhythm is counted: one hand’s, or what both make together."
              onChange={(value) => {
                setHand(value);
                setChosen(null);
              }}
            />
          </div>
          <fieldset className="flex shrink-0 overflow-hidden rounded-lg border border-edge">
            <legend className="sr-only">Shown as</legend>
            {(["ruler", "notation"] as const).map((one) => (
              <button
                key={one}
                type="button"
                aria-pressed={look === one}
                onClick={() => setLook(one)}
                className={`px-3 py-2 ${look === one ? "bg-ink font-bold text-card" : "bg-card hover:bg-here"}`}
              >
                {one}
              </button>
            ))}
          </fieldset>
          <span data-screen-only="" className="basis-full text-sm text-quiet [@media(max-height:500px)]:hidden">
            {look === "ruler" ? "Choose a count to say it otherwise." : "The counts stand under their notes."}
          </span>
        </div>
        {roadmapLine}
        {counts.error ? <Problem error={counts.error} /> : null}
        {look === "ruler" ? (
          <RulerView
            ruler={piece.ruler}
            counts={counts.data}
            hands={hand}
            handle={ruler}
            marks={marks}
            onCount={setChosen}
            chosenCount={chosen?.onset_quarters ?? null}
          />
        ) : (
          <Notation piece={piece} bpm={bpm} hand={hand} stamp={counts.dataUpdatedAt} />
        )}
      </div>
      <div className="min-w-0">
        {chosen && counts.data ? (
          <Otherwise
            key={`${placeOf(chosen)} ${hand}`}
            piece={piece}
            bpm={bpm}
            hand={hand}
            counts={counts.data}
            count={chosen}
            onDone={() => setChosen(null)}
            onStep={step}
            sayIt={sayIt}
          />
        ) : null}
        {counts.data ? (
          <CountPanel pieceId={piece.id} bpm={bpm} counts={counts.data} disabled={false} onBar={showBar} isOpen />
        ) : (
          <Loading what="Counting" />
        )}
        <ByHand piece={piece} bpm={bpm} hand={hand} counts={counts.data} />
        <CountSheet piece={piece} bpm={bpm} hand={hand} />
      </div>
    </div>
  );
}

/** The engraved page, as wide as there is room. */
function Notation({ piece, bpm, hand, stamp }: { piece: Piece; bpm: number; hand: HandChoice; stamp: number }) {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (box.current) setWidth(Math.max(280, Math.min(2400, Math.round(box.current.clientWidth))));
  }, []);
  const { page, error } = useRows(box, {
    pageKey: ["notation", piece.id, bpm, hand, width, stamp],
    fetchRows: (first, rows, signal) => fetchNotation(piece.id, { bpm, hand, width, first, rows }, signal),
    isReady: width > 0,
  });
  return (
    <div ref={box} className="rounded-lg border border-line bg-white p-2">
      {error ? <Problem error={error} /> : null}
      {page ? (
        <Rows page={page} label={`${piece.title} in notation, with its counts`} />
      ) : error ? null : (
        <Loading what="Engraving" />
      )}
    </div>
  );
}

/** One count said otherwise, or its whole bar counted another way. */
function Otherwise({
  piece,
  bpm,
  hand,
  counts,
  count,
  onStep,
  onDone,
  sayIt,
}: {
  piece: Piece;
  bpm: number;
  hand: HandChoice;
  counts: Counts;
  count: Count;
  onStep: (by: number) => void;
  onDone: () => void;
  sayIt: Props["sayIt"];
}) {
  const stored = usePieceChoices(piece.id);
  const put = usePutChoices(piece.id, bpm, hand);
  const [typed, setTyped] = useDraft(`say.${piece.id}.${hand}.${placeOf(count)}`);
  const word = typed ?? count.say;
  if (!stored.data) return null;
  const choices: Choices = stored.data;
  const others = (choices.syllables ?? []).filter(
    (s) => !(s.measure === count.measure && s.offset === count.offset && (s.hand ?? "both") === hand),
  );
  const bar = choices.bars?.[count.measure] ?? {};
  const save = (say: string | null) =>
    put.mutate(
      {
        ...choices,
        syllables: say ? [...others, { measure: count.measure, offset: count.offset, hand, say }] : others,
      },
      {
        onSuccess: () => {
          setTyped(null);
          onDone();
        },
      },
    );
  return (
    <section aria-label="Say it otherwise" className="mb-5 rounded-lg bg-card p-5">
      <div className="float-right ml-3 flex gap-1">
        <Button aria-label="The count before" className="px-3" onClick={() => onStep(-1)}>
          ‹
        </Button>
        <Button aria-label="The count after" className="px-3" onClick={() => onStep(1)}>
          ›
        </Button>
      </div>
      <h2 className="text-lg font-bold">
        Bar {count.measure}, where “{count.say}” is{" "}
        {count.kind === "strike" ? "struck" : count.kind === "hold" ? "held" : "silent"}
      </h2>
      <form
        className="mt-2 flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (word.trim()) save(word.trim());
        }}
      >
        <label className="min-w-0 flex-1">
          <span className="mb-2 block text-sm text-quiet">Say</span>
          <input
            value={word}
            maxLength={16}
            autoFocus
            onChange={(event) => setTyped(event.target.value)}
            className="w-full rounded-lg border border-edge bg-paper px-3 py-2"
          />
        </label>
        {sayIt(word)}
        <Button type="submit" disabled={put.isPending || !word.trim() || word.trim() === count.say}>
          Say this
        </Button>
      </form>
      <BarChoices
        piece={piece}
        counts={counts}
        measure={count.measure}
        layer={bar}
        isPending={put.isPending}
        onChange={(layer) => put.mutate({ ...choices, bars: withBar(choices, count.measure, layer) })}
      />
      <div className="mt-3 flex gap-5">
        {count.is_changed ? (
          <Button look="quiet" onClick={() => save(null)}>
            Back to the usual word
          </Button>
        ) : null}
        <Button
          look="quiet"
          onClick={() => {
            setTyped(null);
            onDone();
          }}
        >
          Close
        </Button>
      </div>
      {put.error ? <Problem error={put.error} /> : null}
    </section>
  );
}

/** Everything changed by hand in this piece. */
function ByHand({
  piece,
  bpm,
  hand,
  counts,
}: {
  piece: Piece;
  bpm: number;
  hand: HandChoice;
  counts: Counts | undefined;
}) {
  const stored = usePieceChoices(piece.id);
  const put = usePutChoices(piece.id, bpm, hand);
  const naming = useNaming();
  const choices = stored.data;
  if (!choices || !counts) return null;
  const syllables = choices.syllables ?? [];
  const bars = Object.entries(choices.bars ?? {});
  const hands = Object.entries(choices.hands ?? {}).filter(([, layer]) => layerWords(layer, naming));
  const own = layerWords(choices.piece ?? {}, naming);
  if (!syllables.length && !bars.length && !hands.length && !own) return null;
  const withoutHand = (name: string) =>
    Object.fromEntries(Object.entries(choices.hands ?? {}).filter(([one]) => one !== name));
  return (
    <section aria-label="Changed by hand" className="mt-5">
      <h2 className="text-lg font-bold">Changed by hand</h2>
      <ul className="mt-1 divide-y divide-line text-sm">
        {own ? (
          <li className="flex items-baseline justify-between gap-3 py-1">
            <span>the whole piece: {own}</span>
            <Button
              look="quiet"
              aria-label="Remove the choice for the piece"
              onClick={() => put.mutate({ ...choices, piece: {} })}
            >
              remove
            </Button>
          </li>
        ) : null}
        {hands.map(([name, layer]) => (
          <li key={name} className="flex items-baseline justify-between gap-3 py-1">
            <span>
              {name === "both" ? "both hands together" : `${name} hand`}: {layerWords(layer, naming)}
            </span>
            <Button
              look="quiet"
              aria-label={`Remove the choice for the ${name} hand`}
              onClick={() => put.mutate({ ...choices, hands: withoutHand(name) })}
            >
              remove
            </Button>
          </li>
        ))}
        {syllables.map((one) => (
          <li
            key={`${one.measure} ${one.offset} ${one.hand}`}
            className="flex items-baseline justify-between gap-3 py-1"
          >
            <span>
              bar {one.measure}, {one.hand === "both" ? "both hands" : `${one.hand} hand`}: says “{one.say}”
            </span>
            <Button
              look="quiet"
              aria-label={`Remove “${one.say}” in bar ${one.measure}`}
              onClick={() => put.mutate({ ...choices, syllables: syllables.filter((s) => s !== one) })}
            >
              remove
            </Button>
          </li>
        ))}
        {bars.map(([measure, layer]) => (
          <li key={measure} className="flex items-baseline justify-between gap-3 py-1">
            <span>
              bar {measure}: {layerWords(layer, naming)}
            </span>
            <Button
              look="quiet"
              aria-label={`Remove the choice for bar ${measure}`}
              onClick={() => put.mutate({ ...choices, bars: withBar(choices, measure, {}) })}
            >
              remove
            </Button>
          </li>
        ))}
      </ul>
      {put.error ? <Problem error={put.error} /> : null}
    </section>
  );
}
