/** The piece as files: with its counts as lyrics, as MIDI in playing order, as a table. */
import type { Piece } from "../../api/client";

export function Downloads({ piece }: { piece: Piece }) {
  const forms = [
    ["format=musicxml&counts=true", "score with the count as lyrics (MusicXML)"],
    ["format=mxl&counts=true", "the same, compressed (.mxl)"],
    ["format=mid", "as it is played (MIDI)"],
    ["format=csv", "the counts as a table (CSV)"],
  ] as const;
  return (
    <details data-screen-only="" className="mt-8">
      <summary className="cursor-pointer py-1 font-bold">Download</summary>
      <ul className="mt-2 space-y-1 text-sm">
        {forms.map(([query, words]) => (
          <li key={query}>
            <a className="underline" href={`/api/pieces/${piece.id}/export?${query}`} download>
              {words}
            </a>
          </li>
        ))}
        <li>
          the play-along as WAV or MIDI: under{" "}
          <a className="underline" href={`/pieces/${piece.id}?view=play`}>
            Play
          </a>
          , as it sounds there
        </li>
        <li>
          <a className="underline" href={`/api/pieces/${piece.id}/original`} download>
            the file as it came
          </a>
        </li>
      </ul>
    </details>
  );
}
