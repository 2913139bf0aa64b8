/** The phrases of a piece: where each begins, what it has in common with an earlier one, and how they are regrouped. */
import { useState } from "react";

import type { Roadmap, Schemas } from "../../api/client";
import { usePutReading, useReading } from "../../api/queries/score";
import { Choice } from "../../ui/Choice";
import { Button, Problem } from "../../ui/kit";
import { updateOf } from "./reading";

type Start = Schemas["PhraseStart"];

export function Phrases({ pieceId, road }: { pieceId: number; road: Roadmap }) {
  const reading = useReading(pieceId);
  const put = usePutReading(pieceId);
  const starts = road.phrases.map((phrase) => phrase.start);
  const isBusy = put.isPending || !reading.data;
  const save = (phrase_starts: Start[]) => {
    if (reading.data) put.mutate({ ...updateOf(reading.data), phrase_starts });
  };
  return (
    <section aria-label="Phrases" className="mb-8">
      <h2 className="text-xl font-bold">Phrases</h2>
      <p className="mb-2 text-quiet">{road.phrases_reason} They need not begin at a bar line.</p>
      {put.error ? <Problem error={put.error} /> : null}
      <ol className="divide-y divide-line">
        {road.phrases.map((phrase, index) => (
          <li key={phrase.number} className="flex flex-wrap items-baseline gap-x-5 gap-y-1 py-2">
            <span className="w-6 font-bold text-quiet">{phrase.letter}</span>
            <span className="w-24 font-bold">phrase {phrase.number}</span>
            <span className="min-w-0 flex-1">
              from {phrase.start_text} to {phrase.end_text}
              {likeness(phrase)}
            </span>
            {index > 0 ? (
              <button
                type="button"
                disabled={isBusy}
                onClick={() => save(starts.filter((_, at) => at !== index))}
                className="text-sm text-quiet underline hover:text-ink"
              >
                join to the phrase before
              </button>
            ) : null}
          </li>
        ))}
      </ol>
      <Divide road={road} isBusy={isBusy} onDivide={(start) => save([...starts, start])} />
      {road.phrases_are_own ? (
        <Button look="quiet" className="mt-2" disabled={isBusy} onClick={() => save([])}>
          Back to how they are found
        </Button>
      ) : null}
    </section>
  );
}

const likeness = (phrase: Roadmap["phrases"][number]) =>
  phrase.same_notes_as
    ? `: the same as phrase ${phrase.same_notes_as}`
    : phrase.same_rhythm_as
      ? `: the rhythm of phrase ${phrase.same_rhythm_as}`
      : "";

/** One more beginning of a phrase, at any beat. */
function Divide({ road, isBusy, onDivide }: { road: Roadmap; isBusy: boolean; onDivide: (start: Start) => void }) {
  const [measure, setMeasure] = useState(road.bars[0]?.number ?? "");
  const [beat, setBeat] = useState("0");
  const bar = road.bars.find((one) => one.number === measure);
  const beats = (bar?.beats ?? []).map((one) => [one.offset, one.words] as const);
  const offset = beats.some(([one]) => one === beat) ? beat : (beats[0]?.[0] ?? "0");
  const isThere = road.phrases.some((phrase) => phrase.start.measure === measure && phrase.start.offset === offset);
  return (
    <div className="mt-2 flex flex-wrap items-center gap-2">
      <span>A phrase begins in</span>
      <Choice
        hideLabel
        label="Bar"
        value={measure}
        options={road.bars.map((one) => [one.number, `bar ${one.number}`] as const)}
        onChange={setMeasure}
      />
      <Choice hideLabel label="Beat" value={offset} options={beats} onChange={setBeat} />
      <Button className="px-3 py-1" disabled={isBusy || isThere || !bar} onClick={() => onDivide({ measure, offset })}>
        Divide here
      </Button>
    </div>
  );
}
