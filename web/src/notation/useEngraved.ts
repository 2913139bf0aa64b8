/** The engraved page of a piece without counts, and where each of its notes and rests lies on it. */
import { type RefObject, useEffect, useLayoutEffect, useRef, useState } from "react";

import { fetchNotation } from "../api/queries/score";
import { type Page, useRows } from "./useRows";

export type Box = { left: number; top: number; width: number; height: number };

export type Engraved = {
  frame: RefObject<HTMLDivElement | null>;
  page: Page | undefined;
  boxes: ReadonlyMap<string, Box>;
  error: unknown;
};

const NARROWEST = 280;
const WIDEST = 2400;
const SETTLE_MS = 200;

/** ``version`` is the pencil's: another one is drawn anew. The frame is what the page is drawn in; boxes are known of what
 * is drawn, which ``needed`` always is. */
export function useEngraved(pieceId: number, version: number | null, needed?: readonly string[]): Engraved {
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const measure = () => {
      if (frame.current) setWidth(Math.max(NARROWEST, Math.min(WIDEST, Math.round(frame.current.clientWidth))));
    };
    measure();
    let later = 0;
    const onResize = () => {
      clearTimeout(later);
      later = window.setTimeout(measure, SETTLE_MS);
    };
    window.addEventListener("resize", onResize);
    return () => {
      clearTimeout(later);
      window.removeEventListener("resize", onResize);
    };
  }, []);
  const { page, error, drawn } = useRows(frame, {
    pageKey: ["notation", pieceId, "plain", width, version],
    fetchRows: (first, rows, signal) => fetchNotation(pieceId, { bpm: 60, width, counts: false, first, rows }, signal),
    isReady: width > 0,
    ...(needed && { needed }),
  });
  const [boxes, setBoxes] = useState<ReadonlyMap<string, Box>>(new Map());
  useLayoutEffect(() => setBoxes(frame.current ? boxesIn(frame.current) : new Map()), [drawn, width]);
  return { frame, page, boxes, error };
}

/** Where each note's head (or rest) lies in the frame. */
function boxesIn(frame: HTMLElement): Map<string, Box> {
  const edge = frame.getBoundingClientRect();
  const found = new Map<string, Box>();
  for (const group of frame.querySelectorAll<SVGGElement>("[data-item]")) {
    const head = group.querySelector(".notehead") ?? group;
    const { left, top, width, height } = head.getBoundingClientRect();
    if (width || height)
      found.set(group.dataset.item ?? "", { left: left - edge.left, top: top - edge.top, width, height });
  }
  return found;
}

/** The one box that holds all of some. */
export function around(boxes: readonly Box[]): Box | undefined {
  if (!boxes.length) return undefined;
  const left = Math.min(...boxes.map((box) => box.left));
  const top = Math.min(...boxes.map((box) => box.top));
  return {
    left,
    top,
    width: Math.max(...boxes.map((box) => box.left + box.width)) - left,
    height: Math.max(...boxes.map((box) => box.top + box.height)) - top,
  };
}
