/** Words and shapes shared by the screens. */
export const STATE_SHAPES = { untouched: "○", begun: "◐", passed: "●" } as const;

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

/** A tempo as people write it: a whole number, or a half where it is exactly one. */
export const plainBpm = (bpm: number): string => String(Number.isInteger(2 * bpm) ? bpm : Math.round(bpm));

/** A length in beats as one would say it. */
export function beatsWords(beats: number): string {
  const halves = Math.round(beats * 2) / 2;
  if (halves < 0.5) return "less than half a beat";
  if (halves === 0.5) return "about half a beat";
  if (halves === 1) return "about one beat";
  const whole = Math.floor(halves);
  return `about ${whole}${halves > whole ? "½" : ""} beats`;
}

/** What a recording is called that comes from no file. */
export const MICROPHONE = "microphone";
