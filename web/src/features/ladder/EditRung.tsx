/** The teacher's own hand in the ladder: one rung changed, split, moved, left out; one more put above it. */
import { useState } from "react";

import type { Piece, Rung, Study } from "../../api/client";
import { useStrikes } from "../../api/queries/pieces";
import { useEdit, useUndoEdit } from "../../api/queries/studies";
import { type Edit, GATES, editedLadder } from "../../lib/editedLadder";
import { HANDS, count } from "../../lib/words";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";
import { Button, Problem } from "../../ui/kit";

type Props = {
  piece: Piece;
  study: Study;
  rung: Rung;
  open: boolean;
  onClose: () => void;
  onRung: (key: string) => void;
};

const STAGES = [
  ["hear", "Hear it"],
  ["count", "Say the count"],
  ["right", "Right hand"],
  ["left", "Left hand"],
  ["lap", "Lap it"],
  ["line-up", "Line it up"],
  ["join", "Together"],
  ["seams", "The seam"],
] as const satisfies readonly (readonly [string, string])[];

/** What can be of a spot that is no whole bars. */
const SPOT_STAGES = new Set(["right", "left", "lap", "join", "seams"]);
const OF = [
  ["bars", "these bars"],
  ["spot", "a spot of them"],
] as const;

export function EditRung({ piece, study, rung, open, onClose, onRung }: Props) {
  const names = piece.ruler.measures.map((one) => one.number);
  const edit = useEdit(study, (wanted) => editedLadder(study, wanted, names));
  const undo = useUndoEdit(study);
  const bars = [...new Set(names)].map((name) => [name, name] as const);
  const [first, setFirst] = useState(names[rung.first] ?? "");
  const [last, setLast] = useState(names[rung.last] ?? "");
  const [touch, setTouch] = useState(rung.touch ?? "");
  const [added, setAdded] = useState("join");
  const [isSpot, setSpot] = useState(false);
  const spot = useSpot(piece, first, last, isSpot);
  const index = study.rungs.findIndex((one) => one.key === rung.key);
  /** Makes a change; where the rung is another one then, that is gone to. */
  const make = (wanted: Edit, then: "close" | "stay" = "stay") =>
    edit.mutate(wanted, {
      onSuccess: (changed) => {
        const known = new Set(study.rungs.map((one) => one.key));
        const made = changed.rungs.find((one) => !known.has(one.key));
        if (!changed.rungs.some((one) => one.key === rung.key)) onRung(made?.key ?? changed.now ?? "");
        if (then === "close") onClose();
      },
    });
  const busy = edit.isPending || undo.isPending;
  const move = (by: number) => {
    const others = study.rungs.filter((one) => one.key !== rung.key);
    const at = index + by;
    make({ kind: "move", rung: rung.key, above: at > 0 ? (others[at - 1]?.key ?? null) : null });
  };
  return (
    <Sheet open={open} onClose={onClose} title={`Change “${rung.stage_words}: ${rung.title.toLowerCase()}”`}>
      <div className="grid gap-3">
        <div className="flex flex-wrap items-center gap-2">
          <Choice label="Bars" value={first} options={bars} onChange={setFirst} />
          <Choice label="to" value={last} options={bars} onChange={setLast} />
          <Button disabled={busy} onClick={() => make({ kind: "bars", rung: rung.key, first, last }, "close")}>
            Use these bars
          </Button>
        </div>
        <div className="grid gap-3 [&>*>span:first-child]:min-w-20">
          {rung.activity === "play" || rung.activity === "lap" ? (
            <Choice
              label="Hands"
              value={rung.hands}
              options={HANDS}
              onChange={(hands) => make({ kind: "hands", rung: rung.key, hands }, "close")}
            />
          ) : null}
          <Choice
            label="Begins at"
            value={String(rung.tempos[0] ?? rung.bpm)}
            options={piece.metronome_marks.map((mark) => [String(mark), String(mark)] as const)}
            onChange={(bpm) => make({ kind: "tempo", rung: rung.key, bpm: Number(bpm) })}
          />
          <Choice
            label="Passed"
            value={rung.gate.kind}
            options={GATES}
            onChange={(gate) => make({ kind: "gate", rung: rung.key, gate })}
          />
        </div>
        <form
          className="flex flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            make({ kind: "touch", rung: rung.key, text: touch || " " });
          }}
        >
          <label className="flex min-w-0 flex-1 items-center gap-2">
            <span className="min-w-20 text-quiet">Touch</span>
            <input
              value={touch}
              maxLength={120}
              placeholder="drop from the wrist"
              onChange={(event) => setTouch(event.target.value)}
              className="min-h-10 min-w-0 flex-1 rounded-lg border border-edge bg-card px-3"
            />
          </label>
          <Button type="submit" disabled={busy}>
            Keep
          </Button>
        </form>
        <div className="flex flex-wrap gap-2">
          <Button disabled={busy || index < 0 || index + 1 >= study.rungs.length} onClick={() => move(1)}>
            Higher
          </Button>
          <Button disabled={busy || index <= 0} onClick={() => move(-1)}>
            Lower
          </Button>
          {rung.last > rung.first ? (
            <Button
              disabled={busy}
              onClick={() =>
                make({ kind: "split", rung: rung.key, at: names[Math.ceil((rung.first + rung.last + 1) / 2)] ?? "" })
              }
            >
              Split in two
            </Button>
          ) : null}
          <Button disabled={busy} onClick={() => make({ kind: "drop", rung: rung.key }, "close")}>
            Leave it out
          </Button>
        </div>
        <div className="flex flex-wrap items-center gap-2 border-t border-line pt-3">
          <Choice
            label="One more above it"
            value={added}
            options={[...STAGES, ...study.ways.map(({ key, words }) => [key, `Together, ${words}`] as const)]}
            onChange={setAdded}
          />
          {SPOT_STAGES.has(added) ? (
            <Choice
              label="of"
              value={isSpot ? "spot" : "bars"}
              options={OF}
              onChange={(value) => setSpot(value === "spot")}
            />
          ) : null}
          {isSpot && spot.isReady && SPOT_STAGES.has(added) ? (
            <>
              <Choice label={`from bar ${first},`} value={spot.from} options={spot.begins} onChange={spot.setFrom} />
              <Choice label={`to bar ${last},`} value={spot.to} options={spot.ends} onChange={spot.setTo} />
            </>
          ) : null}
          <Button
            disabled={busy}
            onClick={() =>
              make({
                kind: "add",
                ...(study.ways.some((way) => way.key === added)
                  ? { stage: "join", hands: "both", way: added }
                  : { stage: added, hands: added === "right" || added === "left" ? added : "both" }),
                ...(isSpot && spot.isReady && SPOT_STAGES.has(added) ? { within: `${spot.from}..${spot.to}` } : {}),
                first,
                last,
                above: rung.key,
              })
            }
          >
            Add
          </Button>
        </div>
        {edit.error ? <Problem error={edit.error} /> : null}
        {undo.error ? <Problem error={undo.error} /> : null}
        <Changes study={study} busy={busy} onUndo={(every) => undo.mutate(every)} />
      </div>
    </Sheet>
  );
}

/** A spot of the chosen bars: from a strike of the first to one of the last; at first the way from the one into the other. */
function useSpot(piece: Piece, first: string, last: string, isAsked: boolean) {
  const begins = useStrikes(piece.id, first, isAsked).data ?? [];
  const ends = useStrikes(piece.id, last, isAsked).data ?? [];
  const [from, setFrom] = useState<string | null>(null);
  const [to, setTo] = useState<string | null>(null);
  const isOneBar = first === last;
  const of = (value: string | null, strikes: typeof begins, usual: number) =>
    strikes.some(({ offset }) => offset === value) ? (value ?? "") : (strikes.at(usual)?.offset ?? "");
  return {
    begins: begins.map(({ offset, words }) => [offset, words] as const),
    ends: ends.map(({ offset, words }) => [offset, words] as const),
    from: of(from, begins, isOneBar ? 0 : -1),
    to: of(to, ends, isOneBar ? -1 : 0),
    setFrom,
    setTo,
    isReady: begins.length > 0 && ends.length > 0,
  };
}

/** What was changed so far, and the ways back. */
function Changes({ study, busy, onUndo }: { study: Study; busy: boolean; onUndo: (every: boolean) => void }) {
  if (!study.edits) return <p className="text-sm text-quiet">The ladder stands as it was built.</p>;
  return (
    <div className="border-t border-line pt-3">
      <p role="status">
        {count(study.edits, "change")} of yours.{" "}
        <Button look="quiet" disabled={busy} onClick={() => onUndo(false)}>
          Take the last one back
        </Button>
        <Button look="quiet" disabled={busy} onClick={() => onUndo(true)}>
          As it was built
        </Button>
      </p>
      {study.over.map((one) => (
        <p key={one.number} className="text-sm text-quiet">
          Change {one.number + 1} ({one.kind}) is passed over: {one.why}
        </p>
      ))}
    </div>
  );
}
