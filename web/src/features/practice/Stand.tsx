/**
 * What stands on the music stand while it runs: the ruler with the row that is played, the count in large, and what one
 * needs to touch, nothing else. Everything of it is inside the screen, however small that is.
 */
import { type ReactNode, type Ref, useLayoutEffect, useRef, useState } from "react";
import * as z from "zod/mini";

import type { Counts, Piece } from "../../api/client";
import type { Passage, Spot } from "../../lib/passage";
import { keep, readStored } from "../../lib/stored";
import { useNow } from "../../session/current";
import { RulerView } from "../../ruler/RulerView";
import { type RulerHandle, STAND_TYPES, heightsOf } from "../../ruler/layout";
import { Button } from "../../ui/kit";
import { TempoMark } from "../../ui/Tempo";
import { useAlone } from "../../ui/useAlone";

type Props = {
  piece: Piece;
  counts: Counts | undefined;
  hands: "right" | "left" | "both";
  bpm: number;
  passageWords: string;
  /** Only these bars are drawn. */
  only?: Passage | null;
  spot?: Spot | null;
  /** What is going on, in a word or two. */
  title: string;
  ruler: Ref<RulerHandle>;
  children: ReactNode;
};

const KEY = "laptick.stand.type";
const WIDE_PX = 700;

export function Stand({ piece, counts, hands, bpm, passageWords, only, spot, title, ruler, children }: Props) {
  const whole = useRef<HTMLElement>(null);
  const frame = useRef<HTMLDivElement>(null);
  useAlone(whole, frame);
  const [room, setRoom] = useState({ width: 0, height: 0 });
  const [chosen, setChosen] = useState(() => readStored(KEY, z.number()));
  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const measure = () => setRoom({ width: element.clientWidth, height: element.clientHeight });
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    measure();
    return () => observer.disconnect();
  }, []);
  const wanted = chosen ?? (room.width >= WIDE_PX ? 36 : 24);
  const fits = (type: number) => heightsOf(type).bottom <= room.height - 8;
  const sizes = STAND_TYPES.filter((type) => fits(type) || type === STAND_TYPES[0]);
  const type = sizes.findLast((one) => one <= wanted) ?? 20;
  const step = (by: number) => {
    const next = sizes[sizes.indexOf(type as (typeof sizes)[number]) + by];
    if (next === undefined) return;
    setChosen(next);
    keep(KEY, next);
  };
  return (
    <section
      ref={whole}
      aria-label={title}
      className={[
        "fixed inset-0 z-30 flex flex-col gap-1 bg-paper px-3 py-2",
        "[@media(min-height:600px)]:gap-3 [@media(min-height:600px)]:px-5 [@media(min-height:600px)]:py-3",
      ].join(" ")}
    >
      <header className="flex items-center gap-3">
        {/* The tempo is never cut: the title gives way first, then the passage. */}
        <p className="flex min-w-0 flex-1 items-baseline gap-x-2 text-sm max-[500px]:flex-col">
          <b className="max-w-full min-w-0 truncate text-base">{piece.title}</b>
          <span className="flex max-w-full shrink-0 items-baseline gap-x-1 text-quiet">
            <span className="min-w-0 truncate">{passageWords} ·</span>
            <span className="shrink-0 whitespace-nowrap">
              <TempoMark beat={piece} bpm={bpm} size={16} />
            </span>
          </span>
        </p>
        <span role="group" aria-label="Size of the counts" className="flex gap-1 max-[500px]:hidden">
          <Button
            aria-label="A−, smaller counts"
            className="px-3"
            disabled={type === sizes[0]}
            onClick={() => step(-1)}
          >
            A−
          </Button>
          <Button
            aria-label="A+, larger counts"
            className="px-3"
            disabled={type === sizes.at(-1)}
            onClick={() => step(1)}
          >
            A+
          </Button>
        </span>
        <CountNow pieceId={piece.id} title={title} />
      </header>
      <div
        ref={frame}
        data-stand=""
        tabIndex={0}
        role="group"
        aria-label="The ruler"
        className="min-h-0 flex-1 overflow-x-hidden overflow-y-auto focus-visible:outline-none"
      >
        <RulerView
          ruler={piece.ruler}
          counts={counts}
          hands={hands}
          only={only ?? null}
          spot={spot ?? null}
          type_px={type}
          handle={ruler}
        />
      </div>
      {children}
    </section>
  );
}

/** The bar that is played now, larger than all else; while it is counted in, the word. */
function CountNow({ pieceId, title }: { pieceId: number; title: string }) {
  const now = useNow(pieceId);
  const words = now.phase === "between" ? "Next round is counted in" : now.saying !== null ? "Count in" : title;
  const shown =
    now.phase === "between" ? (now.take?.verdict?.status === "steady" ? "●" : "◐") : (now.saying ?? now.bar);
  return (
    <p className="flex items-baseline gap-3">
      <span role="status" className="text-sm text-quiet">
        {words}
        {now.rounds > 1 && now.phase !== "playing" ? `, round ${now.round} of ${now.rounds}` : ""}
      </span>
      {now.saying === null && now.bar !== null && now.phase !== "between" ? (
        <span className="text-quiet">bar</span>
      ) : null}
      <b
        aria-live="off"
        data-count-now=""
        className="min-w-13 text-right text-6xl leading-none [@media(max-height:500px)]:text-4xl"
      >
        {shown ?? "…"}
      </b>
    </p>
  );
}
