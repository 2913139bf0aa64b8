/** Compares clicks as they were rendered with where the schedule has them, and the sound's clock with the page's. */

export type Exactness = {
  /** Clicks compared so far. */
  clicks: number;
  /** Clicks that were never heard though their time is past. */
  missed: number;
  /** The furthest of them from the schedule, in ms. */
  furthest_ms: number;
  /** For how long the two clocks have been compared, and how far they have drifted apart meanwhile. */
  minutes: number;
  drift_ms: number;
};

/** A click heard further than this from any that is expected is not one of them. */
const NEAR_S = 0.05;
/** The relation of the clocks is taken as the median over this many readings, at the start and now. */
const READINGS = 61;

export class ClickMeasure {
  private expected: number[] = [];
  private clicks = 0;
  private missed = 0;
  private furthest_s = 0;
  private first: number[] = [];
  private last: number[] = [];
  private began_s: number | null = null;
  private now_s = 0;

  /** A click is to begin at this time of the audio clock. */
  expect(at_s: number): void {
    this.expected.push(at_s);
  }

  /** A click was rendered at this time of the audio clock. Both come in order of time. */
  hear(at_s: number): void {
    while (this.expected.length > 0 && (this.expected[0] as number) < at_s - NEAR_S) {
      this.expected.shift();
      this.missed += 1;
    }
    const due = this.expected[0];
    if (due === undefined || due > at_s + NEAR_S) return;
    this.expected.shift();
    this.clicks += 1;
    this.furthest_s = Math.max(this.furthest_s, Math.abs(at_s - due));
  }

  /** One reading: seconds of the page's clock, and how far the audio clock lies from it. */
  clocks(page_s: number, offset_s: number): void {
    this.began_s ??= page_s;
    this.now_s = page_s;
    if (this.first.length < READINGS) this.first.push(offset_s);
    this.last.push(offset_s);
    if (this.last.length > READINGS) this.last.shift();
  }

  result(): Exactness {
    return {
      clicks: this.clicks,
      missed: this.missed,
      furthest_ms: 1000 * this.furthest_s,
      minutes: this.began_s === null ? 0 : (this.now_s - this.began_s) / 60,
      drift_ms: 1000 * (median(this.last) - median(this.first)),
    };
  }
}

function median(values: number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}
