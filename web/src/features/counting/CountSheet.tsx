/** The count on paper, for the music stand: under the notes, on the ruler, or both; with where hands stand and move. */
import { useState } from "react";

import type { HandChoice, Piece } from "../../api/client";
import { handSpan } from "../../lib/handSpan";
import { Choice } from "../../ui/Choice";
import { MadeLink } from "../../ui/long/MadeLink";

const SHOWS = [
  ["notation", "the notes, count beneath"],
  ["ruler", "the ruler"],
  ["both", "both, line by line"],
] as const;
type Shows = (typeof SHOWS)[number][0];

export function CountSheet({ piece, bpm, hand }: { piece: Piece; bpm: number; hand: HandChoice }) {
  const [paper, setPaper] = useState<"a4" | "letter">("a4");
  const [big, setBig] = useState(false);
  const [shows, setShows] = useState<Shows>("notation");
  const [joining, setJoining] = useState<"without" | "with">("without");
  const joined = joining === "with" ? `&map=${handSpan()}` : "";
  const address = (format: "pdf" | "html") =>
    `/api/pieces/${piece.id}/sheet?bpm=${bpm}&hand=${hand}&paper=${paper}&big=${big}&shows=${shows}&format=${format}${joined}`;
  return (
    <section data-screen-only="" aria-label="Count sheet" className="mt-8 rounded-lg bg-card p-5">
      <h2 className="text-lg font-bold">Count sheet</h2>
      <div className="mt-2 grid gap-2">
        <Choice label="Shows" value={shows} options={SHOWS} onChange={setShows} />
        <Choice
          label="Joining the hands"
          value={joining}
          options={
            [
              ["without", "left out"],
              ["with", "where hands stand and move, hardest first"],
            ] as const
          }
          onChange={(value) => {
            setJoining(value);
            // Where the hands stand is drawn on the ruler.
            if (value === "with" && shows === "notation") setShows("both");
          }}
        />
        <Choice
          label="Paper"
          value={paper}
          options={
            [
              ["a4", "A4"],
              ["letter", "Letter"],
            ] as const
          }
          onChange={setPaper}
        />
        <Choice
          label="Print"
          value={big ? "big" : "plain"}
          options={
            [
              ["plain", "plain"],
              ["big", "big"],
            ] as const
          }
          onChange={(value) => setBig(value === "big")}
        />
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-x-5">
        <MadeLink className="flex min-h-11 items-center font-bold underline" href={address("pdf")}>
          As PDF
        </MadeLink>
        <MadeLink className="flex min-h-11 items-center font-bold underline" href={address("html")}>
          To print
        </MadeLink>
      </div>
      <p className="mt-3 text-sm">
        The ruler alone, as a picture:{" "}
        {(["svg", "png"] as const).map((format) => (
          <MadeLink
            key={format}
            className="mr-3 underline"
            download
            href={`/api/pieces/${piece.id}/ruler-picture?bpm=${bpm}&hand=${hand}&big=${big}&format=${format}`}
          >
            {format.toUpperCase()}
          </MadeLink>
        ))}
      </p>
    </section>
  );
}
