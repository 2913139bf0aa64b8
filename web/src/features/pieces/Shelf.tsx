/** The shelf: every piece, and room to drop another. */
import { Suspense, lazy, useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import * as z from "zod/mini";

import type { PieceAdded, PieceShort } from "../../api/client";
import { whenMade } from "../../api/queries/client";
import { useAddPiece, usePieces, useShelfPiece } from "../../api/queries/pieces";
import { loaded } from "../../lib/loading";
import { keep, readStored } from "../../lib/stored";
import { count, plainBpm } from "../../lib/words";
import type { Arrival } from "./ImportReport";
import { BarStrip } from "../../ui/BarStrip";
import { Titled } from "../../ui/Titled";
import { Choice } from "../../ui/Choice";
import { More } from "../../ui/More";
import { Button, Loading, Problem, useToast } from "../../ui/kit";
import { TempoMark } from "../../ui/Tempo";

const ImportReport = lazy(() => loaded(() => import("./ImportReport")).then((it) => ({ default: it.ImportReport })));
const NewPassage = lazy(() => loaded(() => import("../entry/NewPassage")).then((it) => ({ default: it.NewPassage })));

const ORDERS = [
  ["name", "by name"],
  ["easy", "easiest to join first"],
  ["hard", "hardest to join first"],
] as const;
type Order = (typeof ORDERS)[number][0];
const ORDER_KEY = "laptick.shelf.order";

/** What is for one hand, or unread, comes last. */
function sorted(pieces: readonly PieceShort[], order: Order): readonly PieceShort[] {
  if (order === "name") return pieces;
  const way = order === "easy" ? 1 : -1;
  return pieces.toSorted((a, b) =>
    a.difficulty === null || b.difficulty === null
      ? Number(a.difficulty === null) - Number(b.difficulty === null)
      : way * (a.difficulty - b.difficulty),
  );
}

export function Shelf() {
  const pieces = usePieces();
  const add = useAddPiece();
  const navigate = useNavigate();
  const toast = useToast();
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);

  const [arrivals, setArrivals] = useState<readonly Arrival[]>([]);
  const [isWriting, setWriting] = useState(false);
  const [isReading, setReading] = useState(false);
  const [order, setOrder] = useState<Order>(
    () => ORDERS.find(([key]) => key === readStored(ORDER_KEY, z.string()))?.[0] ?? "name",
  );
  const sort = (next: Order) => {
    keep(ORDER_KEY, next);
    setOrder(next);
  };

  /** Every file is tried, whatever comes of the ones before it; a single good one is opened at once. */
  const take = async (files: File[]) => {
    if (!files.length || isReading) return;
    setReading(true);
    const began = Date.now();
    setArrivals(files.map((file, at) => ({ id: began + at, name: file.name })));
    let only: PieceAdded | undefined;
    for (const [at, file] of files.entries()) {
      const settle = (part: Partial<Arrival>) =>
        setArrivals((old) => old.map((one) => (one.id === began + at ? { ...one, ...part } : one)));
      try {
        only = await add.mutateAsync(file);
        settle({ piece: only });
      } catch (error) {
        settle({ error });
      }
    }
    setReading(false);
    if (files.length === 1 && only && !only.same_file_as) {
      const things = only.notices.length;
      toast(
        things
          ? [
              `“${only.title}” is on the shelf.`,
              `${count(things, "thing")} to know about its file`,
              `${things === 1 ? "stands" : "stand"} under “The file”.`,
            ].join(" ")
          : `“${only.title}” is on the shelf.`,
      );
      void navigate(`/pieces/${only.id}${things ? "?view=roadmap" : ""}`);
    }
  };
  const latest = useRef(take);
  useEffect(() => {
    latest.current = take;
  });
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      if ((event.target as HTMLElement | null)?.closest("input, textarea")) return;
      const files = [...(event.clipboardData?.files ?? [])];
      const text = event.clipboardData?.getData("text/plain") ?? "";
      if (!files.length && !text.trim()) return;
      event.preventDefault();
      void latest.current(files.length ? files : [new File([text], "pasted.musicxml", { type: "application/xml" })]);
    };
    window.addEventListener("paste", onPaste);
    return () => window.removeEventListener("paste", onPaste);
  }, []);

  return (
    <main
      id="main"
      className={`mx-auto max-w-[1320px] px-3 pt-3 pb-13 md:px-8 ${over ? "bg-here" : ""}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => {
        if (event.currentTarget === event.target) setOver(false);
      }}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        void take([...event.dataTransfer.files]);
      }}
    >
      <Titled title="Pieces" />
      <div className="mb-5 flex flex-wrap items-center justify-between gap-3">
        <h1 tabIndex={-1} className="text-2xl font-bold focus:outline-none">
          Pieces
        </h1>
        {pieces.data && pieces.data.length > 1 ? (
          <div className="w-80 max-md:order-last max-md:w-full md:mr-3 md:ml-auto">
            <Choice
              label="Sorted"
              value={order}
              options={ORDERS}
              hint="Joining: how hard the hands are to join, from 0 to 100; see Together."
              onChange={sort}
            />
          </div>
        ) : null}
        <div className="flex flex-wrap gap-3">
          <Button onClick={() => setWriting(true)}>Write one</Button>
          <Button onClick={() => input.current?.click()} disabled={isReading}>
            {isReading ? "Reading the score …" : "Add a score"}
          </Button>
        </div>
        {isWriting ? (
          <Suspense>
            <NewPassage open onClose={() => setWriting(false)} />
          </Suspense>
        ) : null}
        <input
          ref={input}
          type="file"
          multiple
          hidden
          accept=".musicxml,.xml,.mxl,.mid,.midi"
          aria-label="Score files"
          onChange={(event) => {
            void take([...(event.target.files ?? [])]);
            event.target.value = "";
          }}
        />
      </div>
      {arrivals.length ? (
        <Suspense>
          <ImportReport arrivals={arrivals} onClose={() => setArrivals([])} />
        </Suspense>
      ) : null}
      {pieces.error ? <Problem error={pieces.error} /> : null}
      {pieces.isPending ? <Loading what="Fetching the pieces" /> : null}
      {pieces.data ? (
        <ul className="grid gap-x-5 gap-y-8 lg:grid-cols-2">
          {sorted(pieces.data, order).map((piece) => (
            <Face key={piece.id} piece={piece} />
          ))}
        </ul>
      ) : null}
      {pieces.data ? (
        <p className="mt-8 text-quiet">
          {pieces.data.length === 0 ? <b className="block text-ink">The shelf is empty.</b> : null}
          Drop scores anywhere on this page, one or many, or paste one: MusicXML (.musicxml, .xml, .mxl) or MIDI (.mid).
        </p>
      ) : null}
    </main>
  );
}

/** The rung to work on next, in a word: the lowest that is not passed yet. */
const nextOf = (piece: PieceShort): string => piece.next_words ?? `all of it, at ${plainBpm(piece.target_bpm)}`;

function Face({ piece }: { piece: PieceShort }) {
  const shelf = useShelfPiece();
  const toast = useToast();
  const onRemove = () =>
    whenMade(shelf.mutateAsync({ id: piece.id, deleted: true }), () =>
      toast(`“${piece.title}” is off the shelf, with its takes.`, () => shelf.mutate({ id: piece.id, deleted: false })),
    );
  return (
    <li className="relative border-b border-line pb-3 [content-visibility:auto] [contain-intrinsic-size:auto_170px]">
      <div className="flex items-center gap-3 max-md:flex-wrap max-md:gap-y-0">
        <Link
          to={`/pieces/${piece.id}`}
          className={[
            "flex min-h-9 min-w-0 flex-1 items-center truncate text-lg font-bold",
            "after:absolute after:inset-0 hover:underline pointer-coarse:min-h-11",
          ].join(" ")}
        >
          {piece.title}
        </Link>
        {piece.unread ? null : (
          <span className="text-sm text-quiet max-md:order-last max-md:basis-full">
            {piece.is_drill ? "drill · " : ""}
            {piece.signature} · {count(piece.bars, "bar")} · <TempoMark beat={piece} bpm={piece.target_bpm} size={16} />{" "}
            · {piece.level.replace("-", " ")}
          </span>
        )}
        <More label={`More for “${piece.title}”`} items={[["Remove from the shelf", onRemove]]} />
      </div>
      {piece.unread ? (
        <p className="my-3 text-warn">
          {piece.unread}{" "}
          <a className="relative underline" href={`/api/pieces/${piece.id}/original`} download>
            Save the original file
          </a>
        </p>
      ) : (
        <>
          <Opening rhythm={piece.rhythm} bars={piece.bar_starts} />
          <p className="flex flex-wrap items-center gap-x-5 gap-y-1 text-sm">
            <BarStrip states={piece.bar_states} className="w-40" />
            <span>
              {piece.passed} of {count(piece.rungs, "rung")}
            </span>
            <span className="text-quiet">{piece.takes ? count(piece.takes, "take") : "no takes yet"}</span>
            <Joining piece={piece} />
            <b className="ml-auto text-base">{nextOf(piece)}</b>
          </p>
        </>
      )}
      {shelf.error ? <Problem error={shelf.error} /> : null}
    </li>
  );
}

/** How hard it is to join, and where that is more than its level. */
function Joining({ piece }: { piece: PieceShort }) {
  if (piece.difficulty === null) return null;
  const points = Math.round(piece.difficulty);
  return piece.is_beyond ? (
    <span className="font-semibold text-warn" title="Harder to join than the level it is filed under.">
      joining {points}, above its level
    </span>
  ) : (
    <span className="text-quiet">joining {points}</span>
  );
}

/** The piece's face: the opening rhythm of both hands on the beat line. */
function Opening({ rhythm, bars }: { rhythm: number[][]; bars: readonly number[] }) {
  const [right = [], left = []] = rhythm;
  const spans = (strikes: readonly number[]) =>
    strikes.map((start, index) => ({ start, length: (strikes[index + 1] ?? 1) - start }));
  return (
    <svg viewBox="0 0 600 64" className="my-2 h-16 w-full" preserveAspectRatio="none" aria-hidden>
      {spans(right).map(({ start, length }) => (
        <rect
          key={`r${start}`}
          x={start * 600}
          y={8}
          width={Math.max(4, length * 600 - 4)}
          height={11}
          rx={5.5}
          className="fill-righthand"
        />
      ))}
      <path
        d={[...bars, 1].map((at) => `M${at * 600} 2V62`).join("")}
        className="stroke-ink"
        strokeWidth="1.25"
        opacity={0.45}
        vectorEffect="non-scaling-stroke"
      />
      <path d="M0 32H600" className="stroke-ink" strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
      {spans(left).map(({ start, length }) => (
        <rect
          key={`l${start}`}
          x={start * 600}
          y={45}
          width={Math.max(4, length * 600 - 4)}
          height={11}
          className="fill-lefthand"
        />
      ))}
    </svg>
  );
}
