/** The roadmap of a piece: in which order it is played, which bars are the same or nearly, which rhythms occur. */
import type { Piece, Roadmap, Schemas } from "../../api/client";
import { usePutReading, usePutRoadmap, useReading, useRoadmap } from "../../api/queries/score";
import { useDraft } from "../../lib/draft";
import { count } from "../../lib/words";
import { CountText } from "../../ui/CountText";
import { Button, Loading, Problem } from "../../ui/kit";
import { FilePanel } from "./FilePanel";
import { Phrases } from "./Phrases";
import { updateOf } from "./reading";
import { orderOf, runsOf } from "./stretches";

type Bar = Schemas["BarLikenessPublic"];

export function RoadmapView({ piece }: { piece: Piece }) {
  const road = useRoadmap(piece.id);
  if (road.error) return <Problem error={road.error} />;
  if (!road.data) return <Loading what="Reading the roadmap" />;
  return (
    <div className="grid gap-x-8 gap-y-8 xl:grid-cols-[minmax(0,1fr)_360px]">
      <div className="min-w-0">
        <Order piece={piece} road={road.data} />
        <Bars piece={piece} road={road.data} />
        <Phrases pieceId={piece.id} road={road.data} />
        <FilePanel piece={piece} />
      </div>
      <Rhythms road={road.data} />
    </div>
  );
}

/** The strip of bars as they are played, and the field in which it is corrected. */
function Order({ piece, road }: { piece: Piece; road: Roadmap }) {
  const put = usePutRoadmap(piece.id);
  const [text, setText] = useDraft(`order.${piece.id}`);
  const names = road.bars.map((bar) => bar.number);
  const typed = text === null ? null : orderOf(text, names);
  const letters = new Map(road.bars.map((bar) => [bar.number, bar.letter]));
  const save = (order: string[] | null) => put.mutate({ order }, { onSuccess: () => setText(null) });
  return (
    <section aria-label="Playing order" className="mb-8">
      <h2 className="text-xl font-bold">Playing order</h2>
      <p className="text-quiet">
        {road.is_own
          ? "As you ordered it."
          : road.is_plain
            ? "As it is written, every bar once."
            : "By the repeats, endings and jumps of the score."}{" "}
        {count(road.order.length, "bar")} in all.
      </p>
      {road.problems.map((problem) => (
        <p key={problem.measure + problem.text} className="text-warn">
          Bar {problem.measure}: {problem.text}.
        </p>
      ))}
      <ol className="mt-2 flex flex-wrap gap-x-3 gap-y-2">
        {stretches(road.order).map((stretch, index) => (
          <li key={index} className="flex overflow-hidden rounded-md border border-ink">
            {stretch.map((name, at) => (
              <span key={at} className="min-w-8 border-l border-line bg-card px-2 py-1 text-center first:border-l-0">
                <b className="block leading-tight">{name}</b>
                <span className="block text-xs leading-tight text-quiet">{letters.get(name)}</span>
              </span>
            ))}
          </li>
        ))}
      </ol>
      {text === null ? (
        <div className="mt-3 flex gap-5">
          <Button look="quiet" onClick={() => setText(runsOf(road.order).join(", "))}>
            Correct it
          </Button>
          {road.is_own ? (
            <Button look="quiet" onClick={() => save(null)}>
              Back to the signs of the score
            </Button>
          ) : null}
        </div>
      ) : (
        <form
          className="mt-3 max-w-xl"
          onSubmit={(event) => {
            event.preventDefault();
            if (typed && "order" in typed) save(typed.order);
          }}
        >
          <label>
            <span className="text-sm text-quiet">
              Bars as they are played: stretches such as 1–4, divided by commas
            </span>
            <input
              value={text}
              autoFocus
              onChange={(event) => setText(event.target.value)}
              className="mt-1 block w-full rounded-lg border border-edge bg-card px-3 py-2"
            />
          </label>
          <p role="status" className="min-h-6 text-sm text-warn">
            {typed && "problem" in typed ? typed.problem : ""}
          </p>
          <div className="flex gap-5">
            <Button type="submit" disabled={!typed || "problem" in typed || put.isPending}>
              Play it so
            </Button>
            <Button look="quiet" onClick={() => setText(null)}>
              Leave it as it was
            </Button>
          </div>
        </form>
      )}
      {put.error ? <Problem error={put.error} /> : null}
    </section>
  );
}

/** Bars as played, divided where the order jumps. */
function stretches(order: readonly string[]): string[][] {
  const result: string[][] = [];
  for (const name of order) {
    const last = result.at(-1);
    if (last && Number(name) === Number(last.at(-1)) + 1) last.push(name);
    else result.push([name]);
  }
  return result;
}

/** Every written bar, line by line, with what an earlier one has in common with it. */
function Bars({ piece, road }: { piece: Piece; road: Roadmap }) {
  const reading = useReading(piece.id);
  const put = usePutReading(piece.id);
  const toggle = (bar: Bar) => {
    if (!reading.data) return;
    const now = road.bars.filter((one) => one.begins_line).map((one) => one.number);
    const line_starts = bar.begins_line ? now.filter((name) => name !== bar.number) : [...now, bar.number];
    put.mutate({ ...updateOf(reading.data), line_starts });
  };
  return (
    <section aria-label="Bars" className="mb-8">
      <h2 className="text-xl font-bold">Bars</h2>
      <p className="mb-2 text-quiet">
        The same letter is the same rhythm. Lines begin where the printed page has them; move them if your edition
        differs.
      </p>
      {put.error ? <Problem error={put.error} /> : null}
      <ol className="divide-y divide-line">
        {road.bars.map((bar, index) => (
          <li
            key={bar.number}
            className={`flex flex-wrap items-baseline gap-x-5 gap-y-1 py-2 ${bar.begins_line ? "border-t-2 !border-t-ink" : ""}`}
          >
            <span className="w-6 font-bold text-quiet">{bar.letter}</span>
            <span className="w-52">{bar.place_text}</span>
            <span className="min-w-0 flex-1">{likenessWords(bar)}</span>
            {index > 0 ? (
              <button
                type="button"
                disabled={put.isPending || !reading.data}
                onClick={() => toggle(bar)}
                className="text-sm text-quiet underline hover:text-ink"
              >
                {bar.begins_line ? "join to the line before" : "begin a line here"}
              </button>
            ) : null}
          </li>
        ))}
      </ol>
    </section>
  );
}

function likenessWords(bar: Bar): string {
  if (bar.same_notes_as) return `the same as bar ${bar.same_notes_as}`;
  if (bar.almost) return `like bar ${bar.almost}, but ${bar.difference}`;
  if (bar.same_rhythm_as) return `the rhythm of bar ${bar.same_rhythm_as}`;
  return "new";
}

/** Which rhythms occur at all, how often and where. */
function Rhythms({ road }: { road: Roadmap }) {
  return (
    <section aria-label="Rhythms" className="min-w-0">
      <h2 className="text-xl font-bold">Rhythms</h2>
      {(["right", "left"] as const).map((hand) => {
        const uses = road.rhythms.filter((use) => use.hand === hand);
        return uses.length ? (
          <div key={hand} className="mt-3">
            <h3 className="font-bold">
              {hand} hand: {count(uses.length, "rhythm")} in all
            </h3>
            <ul className="divide-y divide-line">
              {uses.map((use) => (
                <li key={use.measures[0]} className="py-2">
                  <span className="block">
                    <CountText text={use.said} />
                  </span>
                  <span className="text-sm text-quiet">
                    {use.measures.length === 1 ? "once" : `${use.measures.length} times`}:{" "}
                    {use.measures.length === 1 ? "bar" : "bars"} {runsOf(use.measures).join(", ")}
                  </span>
                </li>
              ))}
            </ul>
          </div>
        ) : null;
      })}
    </section>
  );
}
