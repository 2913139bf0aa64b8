/** What was said of a take, in a sentence that leads to it. */
import { Link } from "react-router";

import type { TakeShort } from "../../api/client";
import { sentenceOf } from "./takeWords";

export function TakeLink({ pieceId, take }: { pieceId: number; take: TakeShort }) {
  return (
    <Link
      to={`/pieces/${pieceId}/takes/${take.id}`}
      className={
        "inline-block underline decoration-line decoration-2 underline-offset-4 first-letter:uppercase" +
        " hover:decoration-ink"
      }
    >
      {sentenceOf(take)}
    </Link>
  );
}
