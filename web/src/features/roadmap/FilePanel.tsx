/** How the file of a piece is read where it leaves something open, and what was not used, changed or guessed. */
import { useMemo } from "react";

import type { Piece, Schemas } from "../../api/client";
import { usePutReading, useReading } from "../../api/queries/score";
import { useNaming } from "../../api/queries/studio";
import { gridWords } from "../../api/trade";
import { RulerView } from "../../ruler/RulerView";
import { Choice } from "../../ui/Choice";
import { Problem } from "../../ui/kit";
import { updateOf } from "./reading";

type Update = Schemas["ReadingUpdate"];

const HAND = [
  ["", "by the usual rule"],
  ["right", "right hand"],
  ["left", "left hand"],
] as const;
/** A file that could be split at a key: from the C below the bass staff to the one above the treble. */
const SPLITS = Array.from({ length: 37 }, (_, i) => 42 + i);
const KEYS = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];
const keyName = (key: number) => `${KEYS[key % 12]}${Math.floor(key / 12) - 1}`;

export function FilePanel({ piece }: { piece: Piece }) {
  const reading = useReading(piece.id);
  const put = usePutReading(piece.id);
  const naming = useNaming();
  if (!reading.data) return null;
  const now = reading.data;
  const change = (part: Partial<Update>) => put.mutate({ ...updateOf(now), ...part });
  const read = now.parts.filter((part) => part.is_read);
  return (
    <section aria-label="The file" className="mb-8">
      <h2 className="text-xl font-bold">The file</h2>
      <p className="mb-2 text-quiet">
        {piece.filename}: {piece.notices.length ? "read with these things to know." : "everything in it is used."}
      </p>
      {put.error ? <Problem error={put.error} /> : null}
      {now.parts.length > 1 ? (
        <fieldset className="mb-3">
          <legend className="font-bold">{now.is_midi ? "Tracks" : "Parts"} that are read</legend>
          <div className="mt-1 flex flex-wrap gap-x-8 gap-y-1">
            {now.parts.map((part) => (
              <label key={part.id} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={part.is_read}
                  disabled={put.isPending || (part.is_read && read.length === 1)}
                  className="size-4 accent-ink"
                  onChange={() =>
                    change({
                      parts: now.parts
                        .filter((one) => (one.id === part.id ? !part.is_read : one.is_read))
                        .map((one) => one.id),
                    })
                  }
                />
                {part.name}
              </label>
            ))}
          </div>
        </fieldset>
      ) : null}
      <div className="grid gap-2 sm:grid-cols-2">
        {read.flatMap((part) =>
          Array.from({ length: part.staves }, (_, i) => {
            const key = `${part.id}:${i + 1}`;
            return (
              <Choice
                key={key}
                label={part.staves > 1 ? `${part.name}, staff ${i + 1}` : part.name}
                value={now.staff_hands[key] ?? ""}
                options={HAND}
                onChange={(hand) =>
                  change({
                    staff_hands: Object.fromEntries([
                      ...Object.entries(now.staff_hands).filter(([name]) => name !== key),
                      ...(hand ? [[key, hand]] : []),
                    ]) as Update["staff_hands"] & object,
                  })
                }
              />
            );
          }),
        )}
        {now.is_midi ? (
          <Choice
            label="Written to"
            value={now.grid}
            options={now.grids.map((grid) => [grid, gridWords(grid, naming)] as const)}
            onChange={(grid) => change({ grid })}
          />
        ) : null}
        {now.is_midi && read.length === 1 ? (
          <Choice
            label="Hands divided"
            value={String(now.split_pitch ?? "")}
            options={[
              ["", "where the hands fit best"],
              ...SPLITS.map((key) => [String(key), `at ${keyName(key)}`] as const),
            ]}
            onChange={(key) => change({ split_pitch: key === "" ? null : Number(key) })}
          />
        ) : null}
      </div>
      {now.is_midi || now.parts.length > 1 ? <Beginning piece={piece} /> : null}
      <Report piece={piece} />
    </section>
  );
}

/** Bars that are shown of how the file is read now. */
const SHOWN_BARS = 8;

/** How the beginning is read now, to look at while one chooses. */
function Beginning({ piece }: { piece: Piece }) {
  const ruler = useMemo(() => {
    const measures = piece.ruler.measures.slice(0, SHOWN_BARS);
    const last = measures.at(-1);
    const end = last ? last.start_quarters + last.length_quarters : 0;
    const within = (onset: number) => onset < end;
    return {
      measures,
      right: piece.ruler.right.filter((span) => within(span.onset_quarters)),
      left: piece.ruler.left.filter((span) => within(span.onset_quarters)),
      together: piece.ruler.together.filter(within),
    };
  }, [piece.ruler]);
  return (
    <div className="mt-5">
      <h3 className="font-bold">How it is read now</h3>
      <RulerView ruler={ruler} counts={undefined} hands="both" />
    </div>
  );
}

const KINDS = [
  ["changed", "Changed"],
  ["guessed", "Guessed"],
  ["unused", "In the file, not used yet"],
] as const;

/** The import report, in words. */
function Report({ piece }: { piece: Piece }) {
  return (
    <>
      {KINDS.map(([kind, words]) => {
        const notices = piece.notices.filter((notice) => notice.kind === kind);
        return notices.length ? (
          <div key={kind} className="mt-3">
            <h3 className="font-bold">{words}</h3>
            <ul className="list-disc pl-8 text-sm">
              {notices.map((notice) => (
                <li key={`${notice.text} ${notice.staff}`}>
                  {notice.text}
                  {notice.measure ? `, first in bar ${notice.measure}` : ""}
                  {notice.staff ? `, staff ${notice.staff}` : ""}
                  {notice.times > 1 ? `, ${notice.times} times` : ""}
                </li>
              ))}
            </ul>
          </div>
        ) : null;
      })}
    </>
  );
}
