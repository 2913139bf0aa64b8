/** What is laid on a ruler, and how high its parts stand in a row. */
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

export type RulerHandle = { moveCursor: (onset: number | null) => void; showBar: (start_quarters: number) => void };

// Heights from the top of a row.
export const TOP = 26;
export const RIGHT_Y = TOP + 14;
export const BASE_Y = TOP + 58;
export const COUNT_Y = BASE_Y + 21;
export const LEFT_Y = BASE_Y + 32;
export const THICK = 15;
export const PIN_UP = 34;
/** A bar narrower than this has room for its name only. */
export const LETTER_PX = 72;
export const PIN_DOWN = 42;
