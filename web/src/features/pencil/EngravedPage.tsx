/** The engraved page on which notes and rests are chosen: by pointer, whichever is nearest, or with the arrow keys. */
import { type KeyboardEvent, type MouseEvent, useEffect } from "react";

import type { WrittenItem } from "../../api/client";
import { Frame } from "../../notation/Frame";
import { Rows } from "../../notation/Rows";
import { type Box, useEngraved } from "../../notation/useEngraved";
import { Loading, Problem } from "../../ui/kit";

/** A pointer this far from a note still means it, in pixels. */
const REACH = 36;

type Props = {
  pieceId: number;
  title: string;
  version: number | null;
  items: readonly WrittenItem[];
  picked: WrittenItem | undefined;
  anchor: WrittenItem | undefined;
  describedBy: string;
  onPick: (id: string, extend: boolean) => void;
  onKey: (event: KeyboardEvent) => void;
};

export function EngravedPage({ pieceId, title, version, items, picked, anchor, describedBy, onPick, onKey }: Props) {
  const { frame, page, boxes, error } = useEngraved(pieceId, version, picked ? [picked.id] : []);
  const at = picked ? boxes.get(picked.id) : undefined;
  useEffect(() => {
    if (at && frame.current?.contains(document.activeElement)) {
      frame.current.querySelector("[data-picked]")?.scrollIntoView({ block: "nearest" });
    }
  }, [at, frame]);

  const onClick = (event: MouseEvent<HTMLDivElement>) => {
    const edge = event.currentTarget.getBoundingClientRect();
    const id = nearest(boxes, event.clientX - edge.left, event.clientY - edge.top);
    if (id) onPick(id, event.shiftKey);
  };
  const marked = items.filter((item) => item.is_pencilled);
  const stretch =
    anchor && picked ? items.filter((item) => item.hand === picked.hand && between(item, anchor, picked)) : [];
  return (
    <div className="rounded-lg border border-line bg-white p-2">
      {error ? <Problem error={error} /> : null}
      {/* The page is one control; what is chosen on it is said by the live region it is described by. */}
      <div
        ref={frame}
        role="application"
        data-page=""
        tabIndex={0}
        aria-label={`${title}: notes and rests, by the arrow keys`}
        aria-describedby={describedBy}
        onKeyDown={onKey}
        onClick={onClick}
        className="relative min-h-24 cursor-pointer"
      >
        {page ? <Rows page={page} /> : error ? null : <Loading what="Engraving" />}
        {stretch.map((item) => (
          <Frame key={item.id} box={boxes.get(item.id)} className="bg-here/70 mix-blend-multiply" />
        ))}
        {marked.map((item) => (
          <Frame
            key={item.id}
            box={boxes.get(item.id)}
            className="rounded-full border-2 border-dotted border-quiet"
            pad={4}
            data={item.id}
          />
        ))}
        <Frame
          box={at}
          className={`border-[3px] ${picked?.hand === "left" ? "rounded-none border-lefthand" : "rounded-xl border-righthand"}`}
          pad={7}
          isPicked
        />
      </div>
    </div>
  );
}

function nearest(boxes: ReadonlyMap<string, Box>, x: number, y: number): string | null {
  let best: string | null = null;
  let least = REACH;
  for (const [id, box] of boxes) {
    const way = Math.hypot(x - (box.left + box.width / 2), y - (box.top + box.height / 2));
    if (way < least) [best, least] = [id, way];
  }
  return best;
}

function between(item: WrittenItem, one: WrittenItem, other: WrittenItem): boolean {
  const [from, to] = one.onset_quarters <= other.onset_quarters ? [one, other] : [other, one];
  return item.onset_quarters >= from.onset_quarters && item.onset_quarters <= to.onset_quarters;
}
