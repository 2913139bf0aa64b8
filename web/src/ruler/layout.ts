/** What is laid on a ruler, and how high its parts stand in a row. */
import type { Piece, Schemas } from "../api/client";

export type Pin = {
  onset_quarters: number;
  hand: "right" | "left" | "both";
  deviation_ms: number;
  /** Of a beat. */
  deviation_percent?: number | undefined;
  matters: boolean;
};
export type Mark = { onset_quarters: number; text: string; kind: "finding" | "missing" | "extra" | "trap" | "change" };

/** ``tied_at``: where the tie of a span leads on. */
export type Name = { onset_quarters: number; hand: "right" | "left"; text: string; tied_at?: number };

/** The notes on which the hands meet, in both. */
export const meetingNames = (meetings: readonly Schemas["MeetingPublic"][]): Name[] =>
  meetings.flatMap((one) => [
    { onset_quarters: one.onset_quarters, hand: "right" as const, text: one.right },
    { onset_quarters: one.onset_quarters, hand: "left" as const, text: one.left },
  ]);

/** Are claps asked for in the rests, of these hands? */
export const hasClaps = ({ right, left }: Piece["ruler"], hands: "right" | "left" | "both" = "both"): boolean =>
  [...(hands === "left" ? [] : right), ...(hands === "right" ? [] : left)].some((span) => span.is_clap);

export type RulerHandle = {
  /** An instant of the written score in quarters; null where nothing runs. */
  moveCursor: (onset_quarters: number | null) => void;
  /** A strike of a hand now: its side of the cursor lights up. */
  light: (hand: "right" | "left") => void;
  showBar: (start_quarters: number) => void;
};

/** The type of counts, in pixels: on a page, and the least and the most on a stand. */
export const COUNT_TYPE = 20;
export const STAND_TYPES = [24, 28, 32, 36, 40, 44] as const;

/** Heights from the top of a row, in pixels. ``top`` and ``names``: where the names of its bars begin and end, as high as
 * a finger where one points; ``head``: where the row itself begins. */
export type Heights = {
  top: number;
  names: number;
  type: number;
  head: number;
  right: number;
  base: number;
  count: number;
  left: number;
  thick: number;
  bottom: number;
};

/** What a finger needs. */
export const TOUCH_PX = 44;
export const ROW_GAP = 12;
export const PIN_UP = 34;
export const PIN_DOWN = 42;

/** Room above and below a row for the places of the hands. */
export const MAP_PX = 38;
/** Room for the notches under the names of the bars. */
export const NOTCH_PX = 18;

export function heightsOf(type: number, { touch = false, take = false, map = false } = {}): Heights {
  const top = map ? MAP_PX : 0;
  const names = top + (touch ? TOUCH_PX : 28);
  const head = names + (map ? NOTCH_PX : 0);
  const thick = Math.round(type * 0.85);
  const right = head + 12;
  const base = right + thick + Math.round(type * 1.1);
  const count = base + Math.round(type * 1.2);
  const left = count + Math.round(type * 0.5);
  const bottom = left + (take ? 46 : thick + 12) + (map ? MAP_PX : 0);
  return { top, names, type, head, right, base, count, left, thick, bottom };
}
