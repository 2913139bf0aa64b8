/** Words and shapes shared by the screens. */
export const STATE_SHAPES = { untouched: "○", begun: "◐", steady: "●" } as const;

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
