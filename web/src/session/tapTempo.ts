/** Tap-tempo: how fast somebody taps. */
/** Taps further apart than this begin anew. */
const TAP_GAP_MS = 2500;
const TAPS_KEPT = 6;

/** Tap-tempo: the tempo of the last taps, by the median of their gaps; null until there are three of them. */
export class TapTempo {
  private stamps_ms: number[] = [];

  tap(stamp_ms: number): number | null {
    if (stamp_ms - (this.stamps_ms.at(-1) ?? -Infinity) > TAP_GAP_MS) this.stamps_ms = [];
    this.stamps_ms = [...this.stamps_ms, stamp_ms].slice(-TAPS_KEPT);
    if (this.stamps_ms.length < 3) return null;
    const gaps = this.stamps_ms
      .slice(1)
      .map((at, i) => at - (this.stamps_ms[i] as number))
      .sort((a, b) => a - b);
    const middle =
      gaps.length % 2
        ? (gaps[(gaps.length - 1) / 2] as number)
        : ((gaps[gaps.length / 2 - 1] as number) + (gaps[gaps.length / 2] as number)) / 2;
    return 60_000 / middle;
  }
}

/** A tap for the tempo; from the third on there is one. */
export function tapped(tapTempo: TapTempo, stamp_ms: number, onBpm: (bpm: number) => void): void {
  const bpm = tapTempo.tap(stamp_ms);
  if (bpm !== null && bpm >= 20 && bpm <= 300) onBpm(Math.round(bpm));
}
