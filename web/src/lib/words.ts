/** Words and shapes shared by the screens. */
export const STATE_SHAPES = { untouched: "○", begun: "◐", steady: "●" } as const;

export const STATUS_WORDS = {
  steady: "steady",
  nearly: "nearly",
  "not-yet": "not yet",
  "could-not-follow": "could not follow",
} as const;

/** Of a take of which nothing is said, or can be read. */
export const STATE_WORDS = {
  waiting: "not judged yet",
  judged: "judgement not readable",
  failed: "could not be judged",
} as const;

export const LEVELS = [
  ["first-year", "first year"],
  ["elementary", "elementary"],
  ["intermediate", "intermediate"],
  ["advanced", "advanced"],
] as const;

export const DENSITIES = [
  ["beat", "only where a beat is divided"],
  ["bar", "the bar’s finest division all through it"],
  ["steady", "the piece’s finest division on every beat"],
] as const;

export const COMPOUNDS = [
  ["auto", "chosen by the tempo"],
  ["beats", "in beats: 1 la li 2 la li"],
  ["units", "in units: 1 2 3 4 5 6"],
  ["groups", "in threes: 1 2 3 2 2 3"],
  ["groups-restart", "in threes: 1 2 3 1 2 3"],
] as const;

export const SYSTEMS = [
  ["numbers", "numbers: 1 e & a"],
  ["beats", "the beats alone: 1 2 3"],
  ["duration", "a syllable for each length: ta ti sh"],
  ["function", "a syllable for each place: ta ka di mi"],
  ["length", "long and short"],
  ["hands", "which hand: together, left, right"],
  ["names", "the letters of the notes"],
] as const;

export type Naming = "american" | "british";

export const NAMINGS = [
  ["american", "quarter, eighth, half"],
  ["british", "crotchet, quaver, minim"],
] as const;

const BEAT_NAMES = {
  american: { quarter: "quarters", half: "halves", eighth: "eighths", "dotted-quarter": "dotted quarters" },
  british: { quarter: "crotchets", half: "minims", eighth: "quavers", "dotted-quarter": "dotted crotchets" },
} as const;

/** The beats in which a bar can be counted, in the studio's words. */
export const beatsIn = (naming: Naming) =>
  [
    ...(Object.entries(BEAT_NAMES[naming]) as [keyof (typeof BEAT_NAMES)["american"], string][]),
    ["bar", "the whole bar, in one"] as const,
  ] as const;

/** Plain lengths by how many make a whole note, in the studio's words. */
export const LENGTH_NAMES: Record<Naming, Record<"1" | "2" | "4" | "8" | "16", string>> = {
  american: { "1": "whole", "2": "half", "4": "quarter", "8": "eighth", "16": "sixteenth" },
  british: { "1": "semibreve", "2": "minim", "4": "crotchet", "8": "quaver", "16": "semiquaver" },
};

const GRIDS: Record<string, Record<Naming, string>> = {
  sixteenths: { american: "sixteenths, and triplets of eighths", british: "semiquavers, and triplets of quavers" },
  "thirty-seconds": {
    american: "thirty-seconds, and triplets of sixteenths",
    british: "demisemiquavers, and triplets of semiquavers",
  },
  eighths: { american: "eighths, and triplets", british: "quavers, and triplets" },
  "sixteenths-no-triplets": { american: "sixteenths, no triplets", british: "semiquavers, no triplets" },
};

export const gridWords = (grid: string, naming: Naming) => GRIDS[grid]?.[naming] ?? grid;

export const HANDS = [
  ["both", "both hands"],
  ["right", "right hand"],
  ["left", "left hand"],
] as const;

export function timeOf(iso: string): string {
  return new Date(iso).toLocaleString(undefined, {
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
  });
}

export function count(n: number, one: string, many = `${one}s`): string {
  return `${n} ${n === 1 ? one : many}`;
}
