/** What can be corrected at one note or rest, and written at its place. */
import { type ReactNode, useState } from "react";

import type { ChangeCreate, Pencil, WrittenItem } from "../../api/client";
import type { PencilAct } from "../../api/queries/score";
import { useDraft } from "../../lib/draft";
import { Choice } from "../../ui/Choice";
import { Button } from "../../ui/kit";

export type Whose = "" | "right" | "left";
export const WHOSE = [
  ["", "both hands"],
  ["right", "right hand"],
  ["left", "left hand"],
] as const;

type Act = (what: PencilAct) => Promise<boolean>;
type Props = { pieceId: number; pencil: Pencil; item: WrittenItem; isBusy: boolean; act: Act; onExtend: () => void };

export function NotePanel({ pieceId, pencil, item, isBusy, act, onExtend }: Props) {
  const add = (change: ChangeCreate) => act({ do: "add", change });
  const draft = (field: string) => `pencil.${pieceId}.${item.id}.${field}`;
  const other = item.hand === "right" ? "left" : "right";
  const isNote = !item.is_rest;
  return (
    <section
      aria-label="The chosen note"
      className={`rounded-xl border-2 bg-card p-5 ${item.hand === "right" ? "border-righthand" : "border-lefthand"}`}
    >
      <h2 className="text-lg font-bold">
        {isNote ? item.name : "Rest"}{" "}
        <span className="font-normal text-quiet">
          {item.hand} hand, bar {item.measure}
        </span>
      </h2>
      <div className="mt-2 grid gap-2">
        {isNote ? (
          <Line
            label="Note"
            draftKey={draft("pitch")}
            initial={item.name}
            isFirst
            maxLength={6}
            button="Write"
            isBusy={isBusy}
            onSave={(text) => add({ kind: "pitch", note: item.id, pitch: text })}
          />
        ) : null}
        {item.is_grace ? null : <Length pencil={pencil} item={item} isBusy={isBusy} add={add} />}
        {isNote ? <Fingering draftKey={draft("fingering")} item={item} isBusy={isBusy} add={add} /> : null}
      </div>
      <div className="mt-3 flex flex-wrap gap-x-5 gap-y-1">
        {isNote && !item.is_grace ? (
          <Button look="quiet" disabled={isBusy} onClick={() => void add({ kind: "hand", note: item.id, hand: other })}>
            Give it to the {other} hand
          </Button>
        ) : null}
        {item.can_tie ? (
          <Button
            look="quiet"
            disabled={isBusy}
            onClick={() => void add({ kind: "tie", note: item.id, is_tied: !item.is_tied })}
          >
            {item.is_tied ? "Strike the next anew" : "Tie it to the next"}
          </Button>
        ) : null}
        {isNote ? (
          <Button look="quiet" disabled={isBusy} onClick={() => void add({ kind: "lift", note: item.id })}>
            Lift after it
          </Button>
        ) : null}
        {isNote ? (
          <Button look="quiet" disabled={isBusy} onClick={() => void add({ kind: "remove", note: item.id })}>
            Take it out
          </Button>
        ) : null}
        <Button look="quiet" onClick={onExtend}>
          From here to … (phrase, hairpin, pedal)
        </Button>
      </div>
      <AtPlace draft={draft} pencil={pencil} item={item} isBusy={isBusy} add={add} />
      <Marks pencil={pencil} item={item} isBusy={isBusy} add={add} />
    </section>
  );
}

type Add = (change: ChangeCreate) => Promise<boolean>;

/** One field with its button. What is typed stays until it is written, also over a reload. */
function Line({
  label,
  draftKey,
  initial,
  button,
  maxLength,
  isBusy,
  isFirst = false,
  mayBeEmpty = false,
  onSave,
  children,
}: {
  label: string;
  draftKey: string;
  initial: string;
  button: string;
  maxLength: number;
  isBusy: boolean;
  isFirst?: boolean;
  mayBeEmpty?: boolean;
  onSave: (text: string) => Promise<boolean>;
  children?: ReactNode;
}) {
  const [typed, setTyped] = useDraft(draftKey);
  const text = (typed ?? initial).trim();
  const canSave = typed !== null && text !== initial && (mayBeEmpty || text !== "");
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (canSave)
          void onSave(text).then((done) => {
            if (done) setTyped(null);
          });
      }}
    >
      <label className="flex min-w-0 flex-1 items-center gap-2">
        <span className="w-20 shrink-0 text-quiet">{label}</span>
        <input
          value={typed ?? initial}
          maxLength={maxLength}
          data-first-field={isFirst ? "" : undefined}
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Escape") setTyped(null);
          }}
          className="w-full min-w-0 rounded-lg border border-edge bg-paper px-3 py-2"
        />
      </label>
      {children}
      <Button type="submit" className="px-3 py-1" disabled={!canSave || isBusy} aria-label={`${button}: ${label}`}>
        {button}
      </Button>
    </form>
  );
}

function Length({ pencil, item, isBusy, add }: { pencil: Pencil; item: WrittenItem; isBusy: boolean; add: Add }) {
  const [freed, setFreed] = useState<"rest" | "next">("rest");
  const known = pencil.lengths.map((one) => [one.quarters, one.name] as const);
  const options = known.some(([quarters]) => quarters === item.length_quarters)
    ? known
    : [[item.length_quarters, item.length_name] as const, ...known];
  const choose = (quarters: string) => {
    if (!isBusy && quarters !== item.length_quarters)
      void add({ kind: "length", note: item.id, length_quarters: quarters, to_next: freed === "next" });
  };
  return (
    <div className="grid gap-1 [&_.text-quiet]:w-20 [&_.text-quiet]:shrink-0">
      <Choice label="Length" value={item.length_quarters} options={options} onChange={choose} />
      <Choice
        label="If shorter"
        value={freed}
        options={
          [
            ["rest", "a rest fills the time"],
            ["next", "the next note comes sooner"],
          ] as const
        }
        onChange={setFreed}
      />
    </div>
  );
}

/** Fingers to try, the chosen one first. */
function Fingering({
  draftKey,
  item,
  isBusy,
  add,
}: {
  draftKey: string;
  item: WrittenItem;
  isBusy: boolean;
  add: Add;
}) {
  const options = item.fingerings.map((text) => text.replace("/", ""));
  const write = (wanted: string[], chosen: number) =>
    add({ kind: "fingering", note: item.id, options: wanted, chosen });
  return (
    <div>
      <Line
        label="Fingering"
        draftKey={draftKey}
        initial={options.join(" or ")}
        button="Write"
        maxLength={40}
        mayBeEmpty
        isBusy={isBusy}
        onSave={(text) => write(text.split(/\s*(?:,|\bor\b|\s)\s*/).filter(Boolean), 0)}
      />
      {options.length > 1 ? (
        <fieldset className="mt-1 flex items-center gap-2">
          <legend className="sr-only">The chosen fingering</legend>
          <span className="w-20 shrink-0 text-quiet">Chosen</span>
          {options.map((option, index) => (
            <button
              key={option}
              type="button"
              aria-pressed={index === 0}
              disabled={isBusy}
              onClick={() => {
                if (index > 0) void write(options, index);
              }}
              className={[
                "min-w-9 rounded-md border border-ink px-2 py-1",
                index === 0 ? "bg-ink font-bold text-card" : "bg-card hover:bg-here",
              ].join(" ")}
            >
              {option}
            </button>
          ))}
        </fieldset>
      ) : null}
    </div>
  );
}

/** What stands at a place, not on a note: a dynamic, a cue word, a chord symbol, one more note. */
function AtPlace({
  draft,
  pencil,
  item,
  isBusy,
  add,
}: {
  draft: (field: string) => string;
  pencil: Pencil;
  item: WrittenItem;
  isBusy: boolean;
  add: Add;
}) {
  const [later, setLater] = useState("0");
  const [whose, setWhose] = useState<Whose>("");
  const [length, setLength] = useState(item.length_quarters);
  const [hand, setHand] = useState<"right" | "left">(item.hand);
  const places = [
    ["0", "at its start"] as const,
    ...pencil.lengths
      .filter((one) => valueOf(one.quarters) < valueOf(item.length_quarters))
      .map((one) => [one.quarters, `a ${one.name} later`] as const)
      .reverse(),
  ];
  const at = { measure: item.measure, offset: sum(item.offset, later) };
  const chord = pencil.marks.find(
    (mark) => mark.mark === "chord-symbol" && mark.measure === item.measure && mark.offset === at.offset,
  );
  return (
    <details className="mt-5 border-t border-line pt-3" open>
      <summary className="cursor-pointer py-1 font-bold">Write at this place</summary>
      <div className="mt-2 grid gap-2 [&_.text-quiet]:w-20 [&_.text-quiet]:shrink-0">
        {places.length > 1 ? <Choice label="Where" value={later} options={places} onChange={setLater} /> : null}
        <Line
          label="Cue word"
          draftKey={draft("cue")}
          initial=""
          button="Write"
          maxLength={24}
          isBusy={isBusy}
          onSave={(text) => add({ kind: "cue", at, text })}
        />
        <Line
          key={`${at.offset} ${chord?.text}`}
          label="Chord"
          draftKey={draft(`chord.${at.offset}`)}
          initial={chord?.text ?? ""}
          button="Write"
          maxLength={24}
          mayBeEmpty={chord !== undefined}
          isBusy={isBusy}
          onSave={(text) => add({ kind: "chord", at, text })}
        />
        <Choice
          label="Dynamic"
          value=""
          options={[["", "choose one"] as const, ...pencil.dynamics.map((text) => [text, text] as const)]}
          onChange={(text) => {
            if (text && !isBusy) void add({ kind: "dynamic", at, text, hand: whose === "" ? null : whose });
          }}
        />
        <Choice label="… for" value={whose} options={WHOSE} onChange={setWhose} />
        <fieldset className="grid gap-1 border-t border-line pt-2">
          <legend className="sr-only">One more note</legend>
          <Line
            label="New note"
            draftKey={draft("new")}
            initial=""
            button="Put in"
            maxLength={6}
            isBusy={isBusy}
            onSave={(text) => add({ kind: "add", at, hand, pitch: text, length_quarters: length })}
          />
          <Choice
            label="… lasting"
            value={length}
            options={pencil.lengths.map((one) => [one.quarters, one.name] as const)}
            onChange={setLength}
          />
          <Choice
            label="… in the"
            value={hand}
            options={
              [
                ["right", "right hand"],
                ["left", "left hand"],
              ] as const
            }
            onChange={setHand}
          />
        </fieldset>
      </div>
    </details>
  );
}

/** Marks of the bar, each of which can be rubbed out; those of the chosen note stand first. */
function Marks({ pencil, item, isBusy, add }: { pencil: Pencil; item: WrittenItem; isBusy: boolean; add: Add }) {
  const inBar = pencil.marks.filter((mark) => mark.measure === item.measure && mark.mark !== "fingering");
  if (!inBar.length) return null;
  const isHere = (mark: Pencil["marks"][number]) =>
    mark.note_id === item.id || (mark.note_id === null && mark.offset === item.offset);
  const sorted = [...inBar.filter(isHere), ...inBar.filter((mark) => !isHere(mark))];
  return (
    <div className="mt-5 border-t border-line pt-3">
      <h3 className="font-bold">Marks in bar {item.measure}</h3>
      <ul className="mt-1 divide-y divide-line text-sm">
        {sorted.map((mark) => (
          <li
            key={`${mark.mark} ${mark.offset} ${mark.text} ${mark.note_id}`}
            className="flex items-baseline justify-between gap-3 py-1"
          >
            <span>
              {mark.words}
              {isHere(mark) ? "" : <span className="text-quiet">, {mark.place_text.replace(/^.*, /, "")}</span>}
            </span>
            <Button
              look="quiet"
              disabled={isBusy}
              aria-label={`Rub out: ${mark.words}`}
              onClick={() =>
                void add({
                  kind: "erase",
                  mark: mark.mark,
                  at: { measure: mark.measure, offset: mark.offset },
                  text: mark.text,
                  note_id: mark.note_id,
                })
              }
            >
              rub out
            </Button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** A fraction as a number: ``3/2`` is 1.5. */
const valueOf = (text: string) => {
  const [over = 0, under = 1] = text.split("/").map(Number);
  return over / under;
};

/** The sum of two fractions, as the server writes them. */
export function sum(one: string, other: string): string {
  const [a = 0, b = 1] = one.split("/").map(Number);
  const [c = 0, d = 1] = other.split("/").map(Number);
  const [over, under] = [a * d + c * b, b * d];
  const part = gcd(Math.abs(over), under);
  return under === part ? String(over / part) : `${over / part}/${under / part}`;
}

const gcd = (a: number, b: number): number => (b ? gcd(b, a % b) : a || 1);
