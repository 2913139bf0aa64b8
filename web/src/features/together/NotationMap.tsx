/**
 * The map on the engraved page: where each hand stands as named brackets over and under its notes, and of the strike that
 * is lined up what goes down, what holds and what was let go.
 */
import { useLayoutEffect, useState } from "react";

import type { Piece, TogetherMap } from "../../api/client";
import type { Step } from "../../lib/liningUp";
import { Frame } from "../../notation/Frame";
import { Rows } from "../../notation/Rows";
import { type Box, around, useEngraved } from "../../notation/useEngraved";
import { fitted } from "../../ruler/MapLayer";
import { Loading, Problem } from "../../ui/kit";

type Props = { piece: Piece; map: TogetherMap; step: Step | null };

type Bracket = { key: string; hand: "right" | "left"; name: string; words: string; box: Box };

/** How far from the notes a bracket is drawn, in pixels. */
const AWAY_PX = 12;
/** How far a name may stand over its bracket. */
const OVER_PX = 24;

export function NotationMap({ piece, map, step }: Props) {
  const shown = [...(step?.held ?? []), ...(step?.struck ?? []), ...(step?.lifted ?? [])].map((key) => key.note_id);
  const { frame, page: drawn, boxes, error } = useEngraved(piece.id, 0, shown);
  const [brackets, setBrackets] = useState<readonly Bracket[]>([]);
  useLayoutEffect(() => {
    const page = frame.current;
    setBrackets(page ? bracketsOf(map, boxes, (id) => staffOf(page, id)) : []);
  }, [frame, map, boxes]);
  const boxesOf = (keys: Step["struck"] | undefined) =>
    (keys ?? []).map((key) => ({ key, box: boxes.get(key.note_id) }));
  return (
    <div className="mb-5 overflow-hidden rounded-lg border border-line bg-white p-2">
      {error ? <Problem error={error} /> : null}
      <div ref={frame} className="relative min-h-24">
        {drawn ? (
          <Rows page={drawn} label={`${piece.title} in notation, with where the hands stand`} />
        ) : (
          <Loading what="Engraving" />
        )}
        {brackets.map((one) => (
          <BracketOver key={one.key} bracket={one} />
        ))}
        {boxesOf(step?.held).map(({ key, box }) => (
          <Frame
            key={`held ${key.note_id}`}
            box={box}
            pad={4}
            className={`border-2 border-dashed ${key.hand === "right" ? "rounded-full border-righthand" : "border-lefthand"}`}
          />
        ))}
        {boxesOf(step?.struck).map(({ key, box }) => (
          <Frame
            key={`struck ${key.note_id}`}
            box={box}
            pad={5}
            isPicked
            className={`border-[3px] ${key.hand === "right" ? "rounded-full border-righthand" : "border-lefthand"}`}
          />
        ))}
        {boxesOf(step?.lifted).map(({ key, box }) =>
          box ? (
            <span
              key={`lifted ${key.note_id}`}
              aria-hidden
              className="pointer-events-none absolute text-sm font-bold text-ink"
              style={{ left: box.left + box.width + 1, top: box.top - 18 }}
            >
              ↑
            </span>
          ) : null,
        )}
      </div>
    </div>
  );
}

/** One bracket a line of the page: a place that goes on is drawn on each. */
function bracketsOf(
  map: TogetherMap,
  boxes: ReadonlyMap<string, Box>,
  staffBox: (noteId: string) => Box | undefined,
): Bracket[] {
  const strikes = { right: [] as Struck[], left: [] as Struck[] };
  for (const event of map.events)
    for (const key of event.struck) {
      const box = boxes.get(key.note_id);
      if (box) strikes[key.hand].push({ onset: event.onset_quarters, box, staff: staffBox(key.note_id) ?? box });
    }
  return map.positions.flatMap((place) => {
    const own = strikes[place.hand].filter(
      ({ onset }) => onset >= place.from_quarters - 1e-9 && onset < place.to_quarters - 1e-9,
    );
    return linesOf(own).map((line, index) => {
      const box = clearOf(line);
      return {
        key: `${place.hand} ${place.from_quarters} ${index}`,
        hand: place.hand,
        name: place.name,
        words: fitted(place.name, index === 0 ? place.moved : null, box.width + OVER_PX),
        box,
      };
    });
  });
}

type Struck = { onset: number; box: Box; staff: Box };

/** The staff that a note is on, in its bar, with all that stands in it. */
function staffOf(page: HTMLElement, noteId: string): Box | undefined {
  const staff = page
    .querySelector(`[data-item="${CSS.escape(noteId)}"]`)
    ?.closest(".staff")
    ?.getBoundingClientRect();
  const edge = page.getBoundingClientRect();
  return staff && { left: staff.left - edge.left, top: staff.top - edge.top, width: staff.width, height: staff.height };
}

/** As wide as the notes, as high as what stands in their bars. */
function clearOf(line: readonly Struck[]): Box {
  const notes = around(line.map(({ box }) => box)) ?? NO_BOX;
  const bars = around(line.map(({ staff }) => staff)) ?? NO_BOX;
  return { left: notes.left, width: notes.width, top: bars.top, height: bars.height };
}

const NO_BOX: Box = { left: 0, top: 0, width: 0, height: 0 };

/** Strikes line by line of the page: where the next one lies further left, a line begins. */
function linesOf(strikes: readonly Struck[]): Struck[][] {
  const lines: Struck[][] = [];
  let before: Struck | undefined;
  for (const strike of strikes) {
    const goesOn = before && (strike.onset === before.onset || strike.box.left > before.box.left);
    if (goesOn) lines.at(-1)?.push(strike);
    else lines.push([strike]);
    before = strike;
  }
  return lines;
}

function BracketOver({ bracket: { hand, name, words, box } }: { bracket: Bracket }) {
  const isRight = hand === "right";
  return (
    <span
      aria-hidden
      data-position={name}
      className={[
        "pointer-events-none absolute flex justify-center text-xs leading-none whitespace-nowrap",
        isRight
          ? "border-x-2 border-t-2 border-righthand text-righthand"
          : "items-end border-x-2 border-b-2 border-lefthand text-lefthand",
      ].join(" ")}
      style={{
        left: box.left - 2,
        width: box.width + 4,
        top: isRight ? box.top - AWAY_PX : box.top + box.height + AWAY_PX - 8,
        height: 8,
      }}
    >
      <span className={`px-0.5 ${isRight ? "-translate-y-4" : "translate-y-4"}`}>{words}</span>
    </span>
  );
}
