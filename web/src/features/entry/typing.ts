/** The typing of a passage: what each key does to it. It knows lengths and where a bar is full, so that the caret goes on
 * by itself; what is right or wrong with a bar is said by the server. */

export type Hand = "right" | "left";
export type Event = { length: string; pitches: string[]; is_rest: boolean; is_tied: boolean };
export type Bar = Record<Hand, Event[]>;

export type Typing = {
  bars: Bar[];
  /** The caret: before the event of that number; one bar more than there are may be begun. */
  at: { bar: number; hand: Hand; index: number };
  /** Length of the next event, in ticks without a triplet. */
  ticks: number;
  /** Notes of a triplet that are still to come. */
  triplet: number;
};

/** Ticks in a quarter: halves down to a sixteenth of one, and thirds, are whole. */
export const PER_QUARTER = 48;

/** A key → the length it stands for: the number of such notes in a whole one; 6 for sixteen. */
export const LENGTH_KEYS: Record<string, number> = { "1": 192, "2": 96, "4": 48, "8": 24, "6": 12 };

export const MOST_BARS = 200;

export const ticksOf = (length: string): number => {
  const [over = 0, under = 1] = length.split("/").map(Number);
  return Math.round((over * PER_QUARTER) / under);
};

export const lengthOf = (ticks: number): string => {
  const part = gcd(ticks, PER_QUARTER);
  return PER_QUARTER === part ? String(ticks / part) : `${ticks / part}/${PER_QUARTER / part}`;
};

const gcd = (a: number, b: number): number => (b ? gcd(b, a % b) : a || 1);

export const begin = (bars: Bar[]): Typing => ({
  bars,
  at: { bar: 0, hand: "right", index: 0 },
  ticks: PER_QUARTER,
  triplet: 0,
});

export const filled = (events: readonly Event[]): number =>
  events.reduce((sum, event) => sum + ticksOf(event.length), 0);

/** The bars that are stored: without empty ones at the end, but never none. */
export function trimmed(bars: readonly Bar[]): Bar[] {
  let end = bars.length;
  while (end > 1 && !bars[end - 1]?.right.length && !bars[end - 1]?.left.length) end--;
  return bars.length ? bars.slice(0, end) : [{ right: [], left: [] }];
}

const eventsAt = (typing: Typing, bar = typing.at.bar): Event[] => typing.bars[bar]?.[typing.at.hand] ?? [];

function withEvents(typing: Typing, bar: number, events: Event[]): Typing {
  const bars = [...typing.bars];
  while (bars.length <= bar) bars.push({ right: [], left: [] });
  bars[bar] = { ...(bars[bar] as Bar), [typing.at.hand]: events };
  return { ...typing, bars };
}

/** ``full``: ticks of each bar by its number. */
export function press(typing: Typing, key: string, full: (bar: number) => number): Typing {
  const { at } = typing;
  if (key in LENGTH_KEYS) return { ...typing, ticks: LENGTH_KEYS[key] as number, triplet: 0 };
  if (key === "3") return { ...typing, triplet: typing.triplet ? 0 : 3 };
  if (key === "r" || key === "0") return add(typing, { pitches: [], is_rest: true }, full);
  if (key === "x" || key === " ") return add(typing, { pitches: [], is_rest: false }, full);
  if (/^[a-g]$/.test(key)) return add(typing, { pitches: [near(key, lastPitch(typing))], is_rest: false }, full);
  if (/^[A-G]$/.test(key))
    return change(typing, (event) =>
      event.is_rest || event.pitches.length >= 10
        ? event
        : { ...event, pitches: [...new Set([...event.pitches, above(key.toLowerCase(), event.pitches.at(-1))])] },
    );
  if (key === ".") return dotted(typing, full);
  if (key === "t") return change(typing, (event) => (event.is_rest ? event : { ...event, is_tied: !event.is_tied }));
  if (key === "ArrowUp" || key === "ArrowDown")
    return change(typing, (event) => ({
      ...event,
      pitches: event.pitches.map((pitch) => halfStep(pitch, key === "ArrowUp" ? 1 : -1)),
    }));
  if (key === "PageUp" || key === "PageDown")
    return change(typing, (event) => ({
      ...event,
      pitches: event.pitches.map((pitch) => octave(pitch, key === "PageUp" ? 1 : -1)),
    }));
  if (key === "h")
    return {
      ...typing,
      triplet: 0,
      at: { bar: at.bar, hand: other(at.hand), index: (typing.bars[at.bar]?.[other(at.hand)] ?? []).length },
    };
  if (key === "=") return copyBefore(typing);
  if (key === "Enter") return goTo(typing, Math.min(at.bar + 1, typing.bars.length, MOST_BARS - 1), 0);
  if (key === "Backspace") return remove(typing);
  if (key === "Delete")
    return withEvents(
      typing,
      at.bar,
      eventsAt(typing).filter((_, index) => index !== at.index),
    );
  if (key === "ArrowLeft")
    return at.index > 0
      ? goTo(typing, at.bar, at.index - 1)
      : at.bar > 0
        ? goTo(typing, at.bar - 1, eventsAt(typing, at.bar - 1).length)
        : typing;
  if (key === "ArrowRight")
    return at.index < eventsAt(typing).length
      ? goTo(typing, at.bar, at.index + 1)
      : at.bar < typing.bars.length
        ? goTo(typing, at.bar + 1, 0)
        : typing;
  if (key === "Home") return goTo(typing, 0, 0);
  if (key === "End")
    return goTo(typing, Math.max(0, typing.bars.length - 1), eventsAt(typing, typing.bars.length - 1).length);
  return typing;
}

const other = (hand: Hand): Hand => (hand === "right" ? "left" : "right");

const goTo = (typing: Typing, bar: number, index: number): Typing => ({
  ...typing,
  triplet: 0,
  at: { ...typing.at, bar, index },
});

/** A new event at the caret; where it makes the bar full, the caret goes on to the next. */
function add(typing: Typing, what: { pitches: string[]; is_rest: boolean }, full: (bar: number) => number): Typing {
  const { at } = typing;
  if (at.bar >= MOST_BARS) return typing;
  const ticks = typing.triplet ? (typing.ticks * 2) / 3 : typing.ticks;
  const events = [...eventsAt(typing)];
  events.splice(at.index, 0, { length: lengthOf(ticks), ...what, is_tied: false });
  const next = { ...withEvents(typing, at.bar, events), triplet: Math.max(0, typing.triplet - 1) };
  const isEnd = at.index === events.length - 1;
  const place =
    isEnd && filled(events) >= full(at.bar) ? { ...at, bar: at.bar + 1, index: 0 } : { ...at, index: at.index + 1 };
  return { ...next, at: place };
}

/** Where the event before the caret is: in this bar, or the last of the bar before. */
function before({ bars, at }: Typing): { bar: number; index: number } | null {
  if (at.index > 0) return { bar: at.bar, index: at.index - 1 };
  const events = bars[at.bar - 1]?.[at.hand] ?? [];
  return at.bar > 0 && events.length ? { bar: at.bar - 1, index: events.length - 1 } : null;
}

/** The event before the caret, otherwise. */
function change(typing: Typing, how: (event: Event) => Event): Typing {
  const place = before(typing);
  if (!place) return typing;
  return withEvents(
    typing,
    place.bar,
    eventsAt(typing, place.bar).map((event, index) => (index === place.index ? how(event) : event)),
  );
}

/** A dot to the event before the caret, or away; the caret then stands where the bar leaves off. */
function dotted(typing: Typing, full: (bar: number) => number): Typing {
  const place = before(typing);
  if (!place) return typing;
  const next = change(typing, (event) => {
    const ticks = ticksOf(event.length);
    const isDotted = ticks % 9 === 0; // three halves of a plain length
    return { ...event, length: lengthOf(isDotted ? (ticks * 2) / 3 : (ticks * 3) / 2) };
  });
  const events = next.bars[place.bar]?.[typing.at.hand] ?? [];
  if (place.index !== events.length - 1) return next;
  return filled(events) >= full(place.bar)
    ? { ...next, at: { ...next.at, bar: place.bar + 1, index: 0 } }
    : { ...next, at: { ...next.at, bar: place.bar, index: events.length } };
}

/** The event before the caret away, also over a bar line. */
function remove(typing: Typing): Typing {
  const place = before(typing);
  if (!place)
    return typing.at.bar > 0 ? goTo(typing, typing.at.bar - 1, eventsAt(typing, typing.at.bar - 1).length) : typing;
  const next = withEvents(
    typing,
    place.bar,
    eventsAt(typing, place.bar).filter((_, index) => index !== place.index),
  );
  return { ...next, at: { ...typing.at, bar: place.bar, index: place.index } };
}

/** What this hand did in the bar before, once more, in place of what is in this one. */
function copyBefore(typing: Typing): Typing {
  const { at } = typing;
  if (at.bar === 0 || at.bar >= MOST_BARS) return typing;
  const copied = eventsAt(typing, at.bar - 1).map((event) => ({ ...event, pitches: [...event.pitches] }));
  return goTo(withEvents(typing, at.bar, copied), at.bar + 1, 0);
}

// -- names of pitches --------------------------------------------------------------------------------------

const LETTERS = "CDEFGAB";
const SEMITONES: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };
const FIRST: Record<Hand, string> = { right: "C5", left: "C3" };

function read(pitch: string): { letter: string; sign: string; octave: number } {
  const match = /^([A-G])(♯|♭|)(-?\d)$/.exec(pitch);
  return { letter: match?.[1] ?? "C", sign: match?.[2] ?? "", octave: Number(match?.[3] ?? 4) };
}

const stepsOf = (letter: string, octave: number) => octave * 7 + LETTERS.indexOf(letter);

function lastPitch(typing: Typing): string {
  const { bars, at } = typing;
  for (let bar = Math.min(at.bar, bars.length - 1); bar >= 0; bar--) {
    const events = bars[bar]?.[at.hand] ?? [];
    for (let index = (bar === at.bar ? at.index : events.length) - 1; index >= 0; index--) {
      const pitch = events[index]?.pitches[0];
      if (pitch) return pitch;
    }
  }
  return FIRST[at.hand];
}

/** A letter at the place nearest to a pitch. */
function near(letter: string, pitch: string): string {
  const name = letter.toUpperCase();
  const here = read(pitch);
  const octaves = [here.octave - 1, here.octave, here.octave + 1];
  const best = octaves.reduce((a, b) =>
    Math.abs(stepsOf(name, b) - stepsOf(here.letter, here.octave)) <
    Math.abs(stepsOf(name, a) - stepsOf(here.letter, here.octave))
      ? b
      : a,
  );
  return `${name}${best}`;
}

/** A letter at the first place above a pitch. */
function above(letter: string, pitch: string | undefined): string {
  const name = letter.toUpperCase();
  if (pitch === undefined) return `${name}4`;
  const here = read(pitch);
  return `${name}${stepsOf(name, here.octave) > stepsOf(here.letter, here.octave) ? here.octave : here.octave + 1}`;
}

const UP = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];
const DOWN = ["C", "D♭", "D", "E♭", "E", "F", "G♭", "G", "A♭", "A", "B♭", "B"];

function halfStep(pitch: string, by: 1 | -1): string {
  const { letter, sign, octave } = read(pitch);
  const key = (octave + 1) * 12 + (SEMITONES[letter] ?? 0) + (sign === "♯" ? 1 : sign === "♭" ? -1 : 0) + by;
  if (key < 12 || key > 119) return pitch;
  return `${(by > 0 ? UP : DOWN)[key % 12]}${Math.floor(key / 12) - 1}`;
}

function octave(pitch: string, by: 1 | -1): string {
  const { letter, sign, octave: now } = read(pitch);
  return now + by < 0 || now + by > 8 ? pitch : `${letter}${sign}${now + by}`;
}
