/** How wide a word is in the shipped font, in parts of the type size (tools/measure_letters.py). */
import widths from "./letter_widths.json";

/** A letter the table does not hold is taken as wide as the widest common ones. */
const UNKNOWN = 0.75;

export type Weight = "400" | "800";

export function wordWidth(text: string, weight: Weight): number {
  const table: Record<string, number> = widths[weight];
  return [...text].reduce((sum, letter) => sum + (table[letter] ?? UNKNOWN), 0);
}
