/**
 * Strikes as the microphone hears them while one plays, so that a take does not end before its last one. Told by the
 * rise of the spectrum (half-wave rectified flux of log power in half-octave bands), not of the level: under legato or
 * pedal a strike hardly adds to what sounds, but it sounds where nothing was. Some are missed and some are none; how many
 * is measured by benchmarks/hearing/live_strikes.py. The take itself is heard by the server.
 */

/** Bands of half an octave, from above what hums to below what hisses. */
const LOWEST_HZ = 150;
const HIGHEST_HZ = 8000;
const BANDS_PER_OCTAVE = 2;
/** Looks are averaged over so many, so that a noise stands still; a strike is a rise over so long before. */
const LOOKS = 3;
const BEFORE_MS = 100;
/** The mean rise over all bands that tells a strike, and the least time between two. */
const RISE_DB = 2;
const AGAIN_MS = 90;
/** What is so much louder than the room in its band counts in full; rises below fade out. */
const OVER_ROOM = 9;
/** Power below which there is nothing, of full scale: a microphone that sends zeros at first. */
const NOTHING = 1e-11;
/** So far back the room is looked for. */
const ROOM_MS = 8000;
/** After this long without a look, nothing is known. */
const FED_MS = 1000;

type Look = { at_ms: number; power: readonly number[] };

export class StrikeMeter {
  private raw: Look[] = [];
  private looks: Look[] = [];
  private room: readonly number[] = [];
  private struck: { count: number; last_ms: number | undefined } = { count: 0, last_ms: undefined };

  /** ``power``: of every band, from ``powerOf``. */
  hear(at_ms: number, power: readonly number[]): void {
    this.raw = [...this.raw, { at_ms, power }].slice(-LOOKS);
    const now = power.map((_, band) => mean(this.raw.map((look) => look.power[band] ?? 0)));
    const before = this.looks.findLast((look) => look.at_ms <= at_ms - BEFORE_MS);
    this.looks.push({ at_ms, power: now });
    while (this.looks[0] && this.looks[0].at_ms < at_ms - ROOM_MS) this.looks.shift();
    if (!before || at_ms - (this.struck.last_ms ?? -Infinity) <= AGAIN_MS) return;
    const rises = now.map((one, band) => {
      const floor = Math.max(NOTHING, OVER_ROOM * (this.room[band] ?? 0));
      return Math.max(0, 10 * Math.log10((one + floor) / ((before.power[band] ?? 0) + floor)));
    });
    if (mean(rises) > RISE_DB) this.struck = { count: this.struck.count + 1, last_ms: at_ms };
  }

  /** From now on strikes are counted anew, out of the quietest room there was: before a second round one has played. */
  begin(): void {
    const bands = this.looks.at(-1)?.power ?? [];
    this.room = bands.map((_, band) => {
      const powers = this.looks.map((look) => look.power[band] ?? 0).sort((a, b) => a - b);
      return Math.min(powers[Math.floor(powers.length / 10)] ?? 0, this.room[band] ?? Infinity);
    });
    this.struck = { count: 0, last_ms: undefined };
  }

  /** Another microphone, another room. */
  forget(): void {
    this.raw = [];
    this.looks = [];
    this.room = [];
    this.struck = { count: 0, last_ms: undefined };
  }

  get strikes(): { count: number; last_ms: number | undefined } {
    return this.struck;
  }

  /** Whether it is told of the sound just now; some browsers hold that back. */
  isFed(now_ms: number): boolean {
    return now_ms - (this.looks.at(-1)?.at_ms ?? -Infinity) < FED_MS;
  }
}

/** The power of every band, of a spectrum in decibel of full scale whose last bin lies at half the sample rate. */
export function powerOf(decibels: Float32Array, sample_rate: number): number[] {
  const bin_hz = sample_rate / 2 / decibels.length;
  const powers: number[] = [];
  for (let low_hz = LOWEST_HZ; low_hz < Math.min(HIGHEST_HZ, sample_rate / 2); low_hz *= 2 ** (1 / BANDS_PER_OCTAVE)) {
    const end = Math.ceil((low_hz * 2 ** (1 / BANDS_PER_OCTAVE)) / bin_hz);
    let power = 0;
    for (let bin = Math.ceil(low_hz / bin_hz); bin < end; bin++) power += 10 ** ((decibels[bin] ?? -Infinity) / 10);
    powers.push(power);
  }
  return powers;
}

const mean = (values: readonly number[]) => values.reduce((sum, one) => sum + one, 0) / Math.max(1, values.length);
