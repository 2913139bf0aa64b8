/** The engraved page on which notes and rests are chosen: by pointer, whichever is nearest, or with the arrow keys. */
import { type KeyboardEvent, type MouseEvent, useEffect, useLayoutEffect, useRef, useState } from "react";

import type { WrittenItem } from "../../api/client";
import { usePlainNotation } from "../../api/queries";
import { Loading, Problem } from "../../ui/kit";

/** A pointer this far from a note still means it, in pixels. */
const REACH = 36;

type Box = { left: number; top: number; width: number; height: number };

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
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const measure = () => {
      if (frame.current) setWidth(Math.max(280, Math.min(2400, Math.round(frame.current.clientWidth))));
    };
    measure();
    let later = 0;
    const onResize = () => { clearTimeout(later); later = window.setTimeout(measure, 200); };
    window.addEventListener("resize", onResize);
    return () => { clearTimeout(later); window.removeEventListener("resize", onResize); };
  }, []);
  const notation = usePlainNotation(pieceId, width, version);
  const [boxes, setBoxes] = useState<ReadonlyMap<string, Box>>(new Map());
  const svg = notation.data?.svg;
  useLayoutEffect(() => setBoxes(frame.current ? boxesIn(frame.current) : new Map()), [svg, width]);

  const at = picked ? boxes.get(picked.id) : undefined;
  useEffect(() => {
    if (at && frame.current?.contains(document.activeElement)) {
      frame.current.querySelector("[data-picked]")?.scrollIntoView({ block: "nearest" });
    }
  }, [at]);

  const onClick = (event: MouseEvent<HTMLDivElement>) => {
    const edge = event.currentTarget.getBoundingClientRect();
    const id = nearest(boxes, event.clientX - edge.left, event.clientY - edge.top);
    if (id) onPick(id, event.shiftKey);
  };
  const marked = items.filter((item) => item.is_pencilled);
  const stretch = anchor && picked ? items.filter((item) => item.hand === picked.hand && between(item, anchor, picked)) : [];
  return (
    <div className="rounded-lg border border-line bg-white p-2">
      {notation.error ? <Problem error={notation.error} /> : null}
      {/* The page is one control; what is chosen on it is said by the live region it is described by. */}
      <div ref={frame} role="application" data-page="" tabIndex={0} aria-label={`${title}: notes and rests, by the arrow keys`} aria-describedby={describedBy}
        onKeyDown={onKey} onClick={onClick} className="relative min-h-24 cursor-pointer">
        {svg ? <div className="notation" dangerouslySetInnerHTML={{ __html: svg }} aria-hidden /> : notation.error ? null : <Loading what="Engraving" />}
        {stretch.map((item) => <Frame key={item.id} box={boxes.get(item.id)} className="bg-here/70 mix-blend-multiply" />)}
        {marked.map((item) => <Frame key={item.id} box={boxes.get(item.id)} className="rounded-full border-2 border-dotted border-quiet" pad={4} data={item.id} />)}
        <Frame box={at} className={`border-[3px] ${picked?.hand === "left" ? "rounded-none border-lefthand" : "rounded-xl border-righthand"}`} pad={7} isPicked />
      </div>
    </div>
  );
}

function Frame({ box, className, pad = 3, isPicked = false, data }: { box: Box | undefined; className: string; pad?: number; isPicked?: boolean; data?: string }) {
  if (!box) return null;
  return (
    <span aria-hidden data-picked={isPicked ? "" : undefined} data-pencilled={data} className={`pointer-events-none absolute ${className}`}
      style={{ left: box.left - pad, top: box.top - pad, width: box.width + 2 * pad, height: box.height + 2 * pad }} />
  );
}

/** Where each note's head (or rest) lies in the frame. */
function boxesIn(frame: HTMLElement): Map<string, Box> {
  const edge = frame.getBoundingClientRect();
  const found = new Map<string, Box>();
  for (const group of frame.querySelectorAll<SVGGElement>("[data-item]")) {
    const head = group.querySelector(".notehead") ?? group;
    const { left, top, width, height } = head.getBoundingClientRect();
    if (width || height) found.set(group.dataset.item ?? "", { left: left - edge.left, top: top - edge.top, width, height });
  }
  return found;
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
