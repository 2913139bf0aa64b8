/** The shelf: every piece, and room to drop another. */
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import type { PieceAdded, PieceShort } from "../../api/client";
import { useAddPiece, usePieces, useShelfPiece } from "../../api/queries/pieces";
import { rungTitle } from "../../api/trade";
import { STATE_SHAPES, count } from "../../lib/words";
import { NewPassage } from "../entry/NewPassage";
import { type Arrival, ImportReport } from "./ImportReport";
import { Button, Loading, Problem, useToast } from "../../ui/kit";
import { TempoMark } from "../../ui/Tempo";

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
      className="mx-auto max-w-6xl px-4 pt-6 pb-20 md:px-6"
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
      <div className="mb-5 flex flex-wrap items-end justify-between gap-3">
        <div>
          <h1 className="text-3xl font-bold">Pieces</h1>
          <p className="text-quiet">Open one to count it, to lap it away from the keys, and to play it.</p>
        </div>
        <div className="flex flex-wrap gap-2">
          <Button onClick={() => setWriting(true)}>Write a passage</Button>
          <Button onClick={() => input.current?.click()} disabled={isReading}>
            {isReading ? "Reading the score …" : "Add a score"}
          </Button>
        </div>
        <NewPassage open={isWriting} onClose={() => setWriting(false)} />
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
      {arrivals.length ? <ImportReport arrivals={arrivals} onClose={() => setArrivals([])} /> : null}
      {pieces.error ? <Problem error={pieces.error} /> : null}
      {pieces.isPending ? <Loading what="Fetching the pieces" /> : null}
      {pieces.data ? (
        <ul className="grid gap-4 sm:grid-cols-2">
          {pieces.data.map((piece) => (
            <Face key={piece.id} piece={piece} />
          ))}
          <li
            className={[
              "grid min-h-36 place-items-center rounded-xl border-2 border-dashed p-4 text-center text-quiet",
              over ? "border-ink bg-here" : "border-line",
            ].join(" ")}
          >
            <span>
              {pieces.data.length === 0 ? <b className="block text-ink">The shelf is empty.</b> : null}
              Drop scores here, one or many, or paste one: MusicXML (.musicxml, .xml, .mxl) or MIDI (.mid).
            </span>
          </li>
        </ul>
      ) : null}
    </main>
  );
}

function Face({ piece }: { piece: PieceShort }) {
  const shelf = useShelfPiece();
  const toast = useToast();
  return (
    <li className="relative rounded-xl border-2 border-line bg-card p-4 focus-within:border-ink hover:border-ink">
      <Link to={`/pieces/${piece.id}`} className="text-xl font-bold after:absolute after:inset-0">
        {piece.title}
      </Link>
      <p className="text-quiet">
        {piece.signature} · {count(piece.bars, "bar")} · <TempoMark beat={piece} bpm={piece.target_bpm} size={16} /> ·{" "}
        {piece.level.replace("-", " ")}
      </p>
      <Opening rhythm={piece.rhythm} />
      <p className="flex flex-wrap items-center gap-x-5 text-sm">
        {piece.rungs.map((rung) => (
          <span key={rung.key}>
            <span aria-hidden>{STATE_SHAPES[rung.state]}</span> {rungTitle(rung.key)}{" "}
            <span className="sr-only">{rung.state}</span>
          </span>
        ))}
        <span className="text-quiet">{piece.takes ? count(piece.takes, "take") : "no takes yet"}</span>
        <button
          type="button"
          className="relative z-10 ml-auto text-quiet underline hover:text-ink"
          aria-label={`remove “${piece.title}” from the shelf`}
          onClick={() =>
            shelf.mutate(
              { id: piece.id, deleted: true },
              {
                onSuccess: () =>
                  toast(`“${piece.title}” is off the shelf, with its takes.`, () =>
                    shelf.mutate({ id: piece.id, deleted: false }),
                  ),
              },
            )
          }
        >
          remove
        </button>
      </p>
      {shelf.error ? <Problem error={shelf.error} /> : null}
    </li>
  );
}

/** The piece's face: the opening rhythm of both hands on the beat line. */
function Opening({ rhythm }: { rhythm: number[][] }) {
  const [right = [], left = []] = rhythm;
  return (
    <svg viewBox="0 0 400 44" className="my-2 h-11 w-full" preserveAspectRatio="none" aria-hidden>
      <path d="M0 22H400" stroke="var(--color-ink)" strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
      {right.map((x) => (
        <rect key={`r${x}`} x={x * 396} y={6} width={7} height={10} rx={3.5} fill="var(--color-righthand)" />
      ))}
      {left.map((x) => (
        <rect key={`l${x}`} x={x * 396} y={28} width={7} height={10} fill="var(--color-lefthand)" />
      ))}
    </svg>
  );
}
