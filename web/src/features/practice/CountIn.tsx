/** How it is counted in. */
import type { Counts } from "../../api/client";

export function CountIn({ counts }: { counts: Counts | undefined }) {
  return (
    <p>
      Count in{" "}
      {counts?.count_in.map((word, index) => (
        <span key={index} className={word === "&" ? "text-quiet" : "font-bold"}>
          {word}{" "}
        </span>
      ))}
    </p>
  );
}
