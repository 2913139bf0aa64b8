/** Quick entry: the rhythm of a passage typed on its ruler, stored as it is typed. Every key has a button, for touch. */
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";

import type { Entry, Piece, Ruler } from "../../api/client";
import { ApiError } from "../../api/client";
import { isSame, useEntry, usePutEntry } from "../../api/queries/entry";
import { useCounts } from "../../api/queries/pieces";
import { useNaming } from "../../api/queries/studio";
import { lengthsIn, type Naming } from "../../api/trade";
import { RulerView } from "../../ruler/RulerView";
import type { Mark, Name, RulerHandle } from "../../ruler/layout";
import { Button, Loading, Problem } from "../../ui/kit";
import { About, type Head } from "./About";
import { forgetKept, keepTyped, keptTyped } from "./kept";
import { LENGTH_KEYS, PER_QUARTER, type Typing, begin, press, ticksOf, trimmed } from "./typing";

export function EntryView({ piece, bpm }: { piece: Piece; bpm: number }) {
  const entry = useEntry(piece.id);
  if (entry.error) return <Problem error={entry.error} />;
  if (!entry.data) return <Loading what="Opening the passage" />;
  return <Desk piece={piece} entry={entry.data} bpm={bpm} />;
}

/** Time without a key after which what is typed is stored. */
const SETTLE_MS = 250;
const RETRY_MS = 4000;
const MOST_UNDO = 300;

function Desk({ piece, entry, bpm }: { piece: Piece; entry: Entry; bpm: number }) {
  const kept = useMemo(() => keptTyped(piece.id), [piece.id]);
  const [isOlder] = useState(
    () => kept !== null && kept.version !== entry.version && !isSame({ ...entry, bars: trimmed(kept.bars) }, entry),
  );
  const [typing, setTyping] = useState<Typing>(() =>
    begin((kept?.version === entry.version ? kept.bars : entry.bars) as Typing["bars"]),
  );
  const [past, setPast] = useState<Typing[]>([]);
  const [future, setFuture] = useState<Typing[]>([]);
  const [stored, setStored] = useState<Typing["bars"]>(entry.bars as Typing["bars"]);
  const [faults, setFaults] = useState(entry.faults);
  const naming = useNaming();
  const put = usePutEntry(piece.id);
  const counts = useCounts(piece.id, bpm, "both");
  const desk = useRef<HTMLDivElement>(null);
  const ruler = useRef<RulerHandle>(null);
  useEffect(() => {
    desk.current?.focus({ preventScroll: true });
  }, []);

  const whole = ticksOf(entry.bar_quarters);
  const upbeat = ticksOf(entry.pickup);
  const full = (bar: number) => (bar === 0 && upbeat ? upbeat : whole);

  // Kept on this device at once, and by the server as soon as the keys rest.
  const { mutateAsync, isPending } = put;
  const isConflict = put.error instanceof ApiError && put.error.status === 409;
  const wait_ms = put.error ? RETRY_MS : SETTLE_MS;
  useEffect(() => {
    if (typing.bars === stored) return;
    keepTyped(piece.id, { version: entry.version, bars: typing.bars });
    if (isConflict || isPending) return; // one is under way: what was typed since follows it
    const later = setTimeout(() => {
      const { title, beats, beat_type, pickup } = entry;
      mutateAsync({
        title,
        beats,
        beat_type,
        pickup,
        bpm: entry.bpm ?? null,
        bars: trimmed(typing.bars),
      }).then(
        (now) => {
          setFaults(now.faults);
          setStored(typing.bars);
          forgetKept(piece.id, typing.bars);
        },
        () => undefined, // said above; what is typed stays here, and is sent again
      );
    }, wait_ms);
    return () => clearTimeout(later);
  }, [typing.bars, stored, isConflict, isPending, wait_ms, entry, piece.id, mutateAsync]);

  const go = (next: Typing) => {
    if (next.bars !== typing.bars) {
      setPast((old) => [...old.slice(1 - MOST_UNDO), typing]);
      setFuture([]);
    }
    setTyping(next);
  };
  const type = (key: string) => go(press(typing, key, full));
  const undo = () => {
    const last = past.at(-1);
    if (last) {
      setFuture((old) => [...old, typing]);
      setPast((old) => old.slice(0, -1));
      setTyping(last);
    }
  };
  const redo = () => {
    const next = future.at(-1);
    if (next) {
      setPast((old) => [...old, typing]);
      setFuture((old) => old.slice(0, -1));
      setTyping(next);
    }
  };
  const onKey = (event: KeyboardEvent) => {
    const key = event.key.toLowerCase();
    if ((event.ctrlKey || event.metaKey) && !event.altKey) {
      if (key === "z" && !event.shiftKey) undo();
      else if (key === "y" || (key === "z" && event.shiftKey)) redo();
      else return;
    } else if (event.altKey || !KNOWN.test(event.key)) return;
    else type(event.key);
    event.preventDefault();
  };

  const saveHead = (head: Head) => {
    mutateAsync({ ...head, bars: trimmed(typing.bars) }).then(
      (now) => {
        setFaults(now.faults);
        setStored(typing.bars);
        forgetKept(piece.id, typing.bars);
      },
      () => undefined, // said above; the passage is as it was
    );
  };
  const drawn = useMemo(() => drawing(piece, typing, whole, upbeat), [piece, typing, whole, upbeat]);
  const marks: Mark[] = faults.map((fault) => ({
    onset_quarters: drawn.starts[fault.bar_index] ?? 0,
    text: fault.text.replace(/^bar \S+ is /, "").replace(/, (right|left) hand$/, ""),
    kind: fault.is_unfinished ? "change" : "finding",
  }));
  const caret = drawn.caret;
  useEffect(() => ruler.current?.moveCursor(caret), [caret, drawn]);
  const isStored = typing.bars === stored;
  return (
    <div className="grid gap-x-8 gap-y-5 lg:grid-cols-[minmax(0,1fr)_300px]">
      <div className="min-w-0">
        {kept && isOlder ? (
          <Older onUse={() => go({ ...typing, bars: kept.bars })} onDiscard={() => forgetKept(piece.id)} />
        ) : null}
        {put.error ? (
          <div className="mb-3">
            <Problem error={put.error} />
          </div>
        ) : null}
        <p role="status" className="mb-2 font-bold">
          {typing.at.hand} hand, bar {upbeat ? typing.at.bar : typing.at.bar + 1} · next:{" "}
          {lengthWords(typing.ticks, naming)}
          {typing.triplet ? `, ${typing.triplet} of a triplet to come` : ""}
          <span className="ml-3 font-normal text-quiet">
            {isStored ? "stored" : put.error ? "kept on this device" : "storing …"}
          </span>
        </p>
        {/* The ruler is one control while it is typed on; what is typed is said by the live region above. */}
        <div
          ref={desk}
          role="application"
          tabIndex={0}
          aria-label={`${piece.title}: type its rhythm`}
          onKeyDown={onKey}
          data-entry=""
          className="rounded-lg border border-edge bg-card p-2"
        >
          <RulerView
            ruler={drawn.ruler}
            counts={isStored ? counts.data : undefined}
            hands="both"
            marks={marks}
            names={drawn.names}
            handle={ruler}
          />
        </div>
        <ul className="mt-2 text-sm" aria-label="Bars to look at">
          {faults.map((fault) => (
            <li key={`${fault.bar_index} ${fault.hand}`} className={fault.is_unfinished ? "text-quiet" : "text-warn"}>
              <span className="inline-block first-letter:uppercase">{fault.text}</span>
              {fault.is_unfinished ? " (the rest is silent)" : " (what reaches over is not counted)"}
            </li>
          ))}
        </ul>
        <About entry={entry} busy={put.isPending} onSave={saveHead} />
      </div>
      <Palette
        typing={typing}
        canUndo={past.length > 0}
        canRedo={future.length > 0}
        onKey={(key) => {
          type(key);
          desk.current?.focus({ preventScroll: true });
        }}
        onUndo={undo}
        onRedo={redo}
      />
    </div>
  );
}

const KNOWN = /^([1-4680a-grtxh=. A-G]|Arrow(Left|Right|Up|Down)|Page(Up|Down)|Backspace|Delete|Enter|Home|End)$/;

/** Key → how many such notes make a whole one. */
const LENGTHS = [
  ["1", "1"],
  ["2", "2"],
  ["4", "4"],
  ["8", "8"],
  ["6", "16"],
] as const;

function lengthWords(ticks: number, naming: Naming): string {
  const found = LENGTHS.find(([key]) => LENGTH_KEYS[key] === ticks);
  return found ? lengthsIn(naming)[found[1]] : "";
}

/** The ruler of what is typed: bars as the stored piece draws them, strikes as they stand. */
function drawing(piece: Piece, typing: Typing, whole: number, upbeat: number) {
  const known = piece.ruler.measures;
  const pattern = known.find((measure) => measure.length_quarters * PER_QUARTER === whole) ?? known[0];
  const count = Math.max(typing.bars.length, typing.at.bar + 1);
  const starts: number[] = [];
  const measures: Ruler["measures"] = [];
  const spans: Record<"right" | "left", Ruler["right"]> = { right: [], left: [] };
  const names: Name[] = [];
  let start = 0;
  let caret = 0;
  for (let bar = 0; bar < count; bar++) {
    const ticks = bar === 0 && upbeat ? upbeat : whole;
    const length = ticks / PER_QUARTER;
    const place = upbeat ? bar - 1 : bar;
    const own = bar === 0 && upbeat ? known[0] : pattern;
    starts.push(start);
    measures.push({
      number: String(upbeat ? bar : bar + 1),
      pass_number: 1,
      line: Math.floor(Math.max(0, place) / 4) + 1,
      bar_in_line: place < 0 ? 0 : (place % 4) + 1,
      signature: own?.signature ?? "",
      start_quarters: start,
      length_quarters: length,
      letter: "",
      cue: "",
      chords: [],
      ticks: own?.ticks ?? [],
    });
    for (const hand of ["right", "left"] as const) {
      let at = 0;
      for (const [index, event] of (typing.bars[bar]?.[hand] ?? []).entries()) {
        if (bar === typing.at.bar && hand === typing.at.hand && index === typing.at.index)
          caret = start + Math.min(at, length - 0.01);
        const quarters = ticksOf(event.length) / PER_QUARTER;
        if (!event.is_rest && at < length) {
          spans[hand].push({
            onset_quarters: start + at,
            length_quarters: Math.min(quarters, length - at),
            is_clap: false,
          });
          names.push({
            onset_quarters: start + at,
            hand,
            text: event.pitches.map((pitch) => pitch.replace(/\d+$/, "")).join(" "),
            ...(event.is_tied ? { tied_at: start + Math.min(at + quarters, length) } : {}),
          });
        }
        at += quarters;
      }
      if (
        bar === typing.at.bar &&
        hand === typing.at.hand &&
        typing.at.index >= (typing.bars[bar]?.[hand] ?? []).length
      )
        caret = start + Math.min(at, length - 0.01);
    }
    start += length;
  }
  const right = new Set(spans.right.map((span) => span.onset_quarters));
  const together = spans.left.map((span) => span.onset_quarters).filter((onset) => right.has(onset));
  return {
    ruler: { measures, right: spans.right, left: spans.left, together } satisfies Ruler,
    names: names.filter((name) => name.text || name.tied_at !== undefined),
    starts,
    caret,
  };
}

/** Something typed on this device for another version of the passage. */
function Older({ onUse, onDiscard }: { onUse: () => void; onDiscard: () => void }) {
  const [isOpen, setOpen] = useState(true);
  if (!isOpen) return null;
  return (
    <div role="alert" className="mb-3 rounded-lg border-2 border-warn bg-card p-3">
      <p>Something else was typed on this device and not stored. It is kept.</p>
      <Button
        look="quiet"
        onClick={() => {
          onUse();
          setOpen(false);
        }}
      >
        Use it in place of this
      </Button>
      <Button
        look="quiet"
        className="ml-5"
        onClick={() => {
          onDiscard();
          setOpen(false);
        }}
      >
        Discard it
      </Button>
    </div>
  );
}

const DOINGS = [
  ["x", "strike"],
  ["r", "rest"],
  [".", "dot"],
  ["3", "triplet"],
  ["t", "tie"],
  ["=", "same again"],
  ["Enter", "next bar"],
  ["h", "other hand"],
  ["Backspace", "take back"],
] as const;

/** Every key as a button, with what it does. */
function Palette({
  typing,
  canUndo,
  canRedo,
  onKey,
  onUndo,
  onRedo,
}: {
  typing: Typing;
  canUndo: boolean;
  canRedo: boolean;
  onKey: (key: string) => void;
  onUndo: () => void;
  onRedo: () => void;
}) {
  const naming = useNaming();
  const look = (isOn: boolean) =>
    `rounded-lg border px-2 py-2 text-left ${isOn ? "border-ink bg-ink font-bold text-card" : "border-edge bg-card hover:border-ink"}`;
  return (
    <section
      aria-label="What can be typed"
      className={[
        "self-start rounded-lg bg-card p-5 text-sm",
        "max-lg:sticky max-lg:bottom-0 max-lg:z-10 max-lg:max-h-[46vh] max-lg:overflow-y-auto lg:sticky lg:top-3",
      ].join(" ")}
    >
      <div className="grid grid-cols-3 gap-2">
        {LENGTHS.map(([key, part]) => (
          <button
            key={key}
            type="button"
            aria-pressed={typing.ticks === LENGTH_KEYS[key]}
            onClick={() => onKey(key)}
            className={look(typing.ticks === LENGTH_KEYS[key])}
          >
            <kbd className="mr-2">{key}</kbd>
            {lengthsIn(naming)[part]}
          </button>
        ))}
      </div>
      <div className="mt-3 grid grid-cols-7 gap-2">
        {[..."cdefgab"].map((key) => (
          <button
            key={key}
            type="button"
            aria-label={`note ${key}`}
            onClick={() => onKey(key)}
            className={`${look(false)} text-center uppercase`}
          >
            {key}
          </button>
        ))}
      </div>
      <div className="mt-3 grid grid-cols-3 gap-2">
        {DOINGS.map(([key, words]) => (
          <button
            key={key}
            type="button"
            aria-pressed={key === "3" ? typing.triplet > 0 : undefined}
            onClick={() => onKey(key)}
            className={look(key === "3" && typing.triplet > 0)}
          >
            {key.length === 1 ? <kbd className="mr-2">{key}</kbd> : null}
            {words}
          </button>
        ))}
      </div>
      <div className="mt-3 flex gap-3">
        <Button className="px-3 py-1" disabled={!canUndo} onClick={onUndo}>
          Undo
        </Button>
        <Button className="px-3 py-1" disabled={!canRedo} onClick={onRedo}>
          Redo
        </Button>
      </div>
      <p className="mt-3 text-quiet">
        Shift and a letter adds to the chord; <kbd>↑</kbd> <kbd>↓</kbd> move the last note by a half step,{" "}
        <kbd>Page ↑</kbd> <kbd>Page ↓</kbd> by an octave. A strike without a letter is rhythm alone.
      </p>
    </section>
  );
}
