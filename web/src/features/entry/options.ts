/** Time signatures and upbeats that a passage can begin with. */
import { lengthsIn, type Naming } from "../../api/trade";

export const SIGNATURES = ["4/4", "3/4", "2/4", "6/8", "3/8", "9/8", "12/8", "2/2", "3/2", "5/4", "5/8", "7/8"].map(
  (text) => [text, text] as const,
);

/** Upbeats by their length in quarters, in the studio's words; another one that is in use is kept among them. */
export function upbeatsIn(naming: Naming, inUse = "0"): (readonly [string, string])[] {
  const names = lengthsIn(naming);
  const usual = [
    ["0", "none"],
    ["1/2", names[8]],
    ["1", names[4]],
    ["3/2", `dotted ${names[4]}`],
    ["2", names[2]],
  ] as const;
  return usual.some(([length]) => length === inUse) ? [...usual] : [[inUse, `${inUse} ${names[4]}s`], ...usual];
}
