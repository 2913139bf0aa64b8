/** What is taken along from a ladder: on paper, or as sound. Made when it is asked for. */
import { MadeLink } from "../../ui/long/MadeLink";

const TAKEN_ALONG = [
  ["practice-sheet?shows=week&", "the week’s sheet, with boxes (PDF)"],
  ["practice-sheet?shows=colouring&", "the piece to colour (PDF)"],
  ["session?", "today’s session as sound (WAV)"],
] as const;

export function TakeAlong({ pieceId, student }: { pieceId: number; student: number }) {
  return (
    <ul className="text-sm">
      {TAKEN_ALONG.map(([path, words]) => (
        <li key={path}>
          <MadeLink
            className="inline-flex min-h-8 items-center underline pointer-coarse:min-h-11"
            href={`/api/pieces/${pieceId}/${path}student=${student}`}
            download={path === "session?"}
          >
            {words}
          </MadeLink>
        </li>
      ))}
    </ul>
  );
}
