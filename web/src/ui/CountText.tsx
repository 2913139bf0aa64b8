/** Counts in a line of text: a strike as it is, a hold in brackets, a rest under the bar of silence. */
import { Fragment } from "react";

type Kind = "strike" | "hold" | "rest";

export function CountWord({ say, kind }: { say: string; kind: Kind }) {
  if (kind === "rest")
    return (
      <span className="border-t-2 border-current text-quiet">
        {say || "\u2002"}
        <span className="sr-only"> rest</span>
      </span>
    );
  return kind === "hold" ? <span className="text-quiet">({say})</span> : <b className="font-semibold">{say}</b>;
}

/** A line of counts as the core writes it: ``1 (2) [3]``. */
export function CountText({ text }: { text: string }) {
  return (
    <>
      {text.split(" ").map((word, index) => {
        const inside = /^([[(])(.*)[\])]$/.exec(word);
        const kind: Kind = inside ? (inside[1] === "[" ? "rest" : "hold") : "strike";
        return (
          <Fragment key={index}>
            {index ? " " : ""}
            <CountWord say={inside?.[2] ?? word} kind={kind} />
          </Fragment>
        );
      })}
    </>
  );
}
