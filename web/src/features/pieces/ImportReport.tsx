/** What came of the files that were added: each by its name, what was read, and what was not. */
import { Link } from "react-router";

import { ApiError, type PieceAdded } from "../../api/client";
import { count } from "../../lib/words";
import { Button } from "../../ui/kit";

/** A file on its way, added, or refused. */
export type Arrival = { id: number; name: string; piece?: PieceAdded; error?: unknown };

const KIND_WORDS = { changed: "changed", guessed: "guessed", unused: "not used" } as const;

export function ImportReport({ arrivals, onClose }: { arrivals: readonly Arrival[]; onClose: () => void }) {
  const waiting = arrivals.filter((one) => !one.piece && !one.error).length;
  const refused = arrivals.filter((one) => one.error).length;
  const added = arrivals.filter((one) => one.piece).length;
  return (
    <section aria-label="What was added" className="mb-5 rounded-lg bg-card p-5">
      <div className="flex items-baseline justify-between gap-3">
        <div role="status">
          <h2 className="text-lg font-bold">
            {waiting
              ? `Reading ${count(waiting, "score")} …`
              : `${count(added, "score")} added${refused ? `, ${refused} not` : ""}`}
          </h2>
        </div>
        {waiting ? null : (
          <Button look="quiet" onClick={onClose}>
            Close
          </Button>
        )}
      </div>
      <ul className="mt-1 divide-y divide-line">
        {arrivals.map((one) => (
          <li key={one.id} className="py-2">
            {one.piece ? (
              <Added name={one.name} piece={one.piece} />
            ) : one.error ? (
              <Refused name={one.name} error={one.error} />
            ) : (
              <span className="text-quiet">{one.name} …</span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Added({ name, piece }: { name: string; piece: PieceAdded }) {
  return (
    <>
      <p>
        <span aria-hidden>● </span>
        <Link to={`/pieces/${piece.id}?view=roadmap`} className="font-bold underline">
          {piece.title}
        </Link>{" "}
        <span className="text-quiet">
          from {name}: {count(piece.ruler.measures.length, "bar")},{" "}
          {piece.hands.length === 2 ? "both hands" : `${piece.hands[0] ?? "no"} hand`}
        </span>
      </p>
      {piece.same_file_as ? (
        <p className="pl-5 text-sm text-warn">
          The same file is on the shelf already; this is a second piece from it.{" "}
          <Link to={`/pieces/${piece.same_file_as}`} className="underline">
            Open the first
          </Link>
        </p>
      ) : null}
      {piece.notices.length ? (
        <ul className="mt-1 list-disc pl-8 text-sm">
          {piece.notices.map((notice) => (
            <li key={`${notice.text} ${notice.measure} ${notice.staff}`}>
              <span className="text-quiet">{KIND_WORDS[notice.kind]}:</span> {notice.text}
              {notice.measure ? `, first in bar ${notice.measure}` : ""}
              {notice.times > 1 ? `, ${notice.times} times` : ""}
            </li>
          ))}
        </ul>
      ) : null}
    </>
  );
}

function Refused({ name, error }: { name: string; error: unknown }) {
  const ours = error instanceof ApiError ? error : null;
  return (
    <div role="alert">
      <p className="text-warn">
        <span aria-hidden>○ </span>
        <b>{name}</b>: {ours ? ours.message : "it could not be sent."}
      </p>
      {ours && (ours.where || ours.kept || ours.todo) ? (
        <p className="pl-5 text-sm text-quiet">
          {[ours.where ? `Where: ${ours.where}.` : "", ours.kept, ours.todo].filter(Boolean).join(" ")}
        </p>
      ) : null}
    </div>
  );
}
