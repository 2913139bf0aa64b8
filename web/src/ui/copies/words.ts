/** What is in a file of a studio, in words. */
import type { Schemas } from "../../api/client";
import { count } from "../../lib/words";

type Contents = Schemas["BundleContents"];

const KINDS = [
  ["students", "student"],
  ["pieces", "piece"],
  ["takes", "take"],
  ["recordings", "recording"],
] as const;

export const countedWords = (counted: Contents["counted"]): string =>
  KINDS.filter(([key]) => counted[key])
    .map(([key, one]) => count(counted[key] ?? 0, one))
    .join(", ") || "nothing yet";

/** As many bytes as one says. */
export const sizeWords = (bytes: number): string =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;
