/** Where in the score a moment of a take is, and the other way round: by the strikes that were matched. */

export type ClockNote = { played_s: number; onset_quarters: number };

export class TakeClock {
  private readonly points: readonly ClockNote[];

  /** Of several strikes at one place of the score the first counts; in the order in which they were played. */
  constructor(notes: readonly ClockNote[]) {
    const first = new Map<number, ClockNote>();
    for (const note of notes) {
      const known = first.get(note.onset_quarters);
      if (!known || note.played_s < known.played_s) first.set(note.onset_quarters, note);
    }
    this.points = [...first.values()].sort((a, b) => a.played_s - b.played_s);
  }

  /** The place at a moment; null before the first strike, after the last, and where it went back. */
  onsetAt(at_s: number): number | null {
    const index = this.points.findLastIndex((one) => one.played_s <= at_s);
    const [from, to] = [this.points[index], this.points[index + 1]];
    if (!from || !to) return from && at_s - from.played_s < 1 ? from.onset_quarters : null;
    if (to.onset_quarters < from.onset_quarters) return from.onset_quarters;
    const share = (at_s - from.played_s) / Math.max(1e-9, to.played_s - from.played_s);
    return from.onset_quarters + share * (to.onset_quarters - from.onset_quarters);
  }

  /** When the first strike at a place or after it was played. */
  playedAt(onset_quarters: number): number | null {
    const after = this.points.filter((one) => one.onset_quarters >= onset_quarters - 1e-6);
    const next = after.reduce<ClockNote | null>(
      (best, one) => (best === null || one.onset_quarters < best.onset_quarters ? one : best),
      null,
    );
    return next?.played_s ?? null;
  }
}
