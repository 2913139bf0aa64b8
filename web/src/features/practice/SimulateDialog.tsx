/** Let the simulated student play, with faults chosen in words. */
import { useState } from "react";

import { useFaults } from "../../api/queries/studio";
import type { Piece, Schemas } from "../../api/client";
import { levels } from "../../api/trade";
import type { Plan } from "../../session/state";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";
import { Button, Loading, Problem } from "../../ui/kit";

type Chosen = { kind: string; strength: 0 | 1 | 2; measure: string };
const STRENGTHS = [
  ["0", "a little"],
  ["1", "clearly"],
  ["2", "badly"],
] as const;
const MOST = 3;

export function SimulateDialog({
  piece,
  keys,
  standIn,
  open,
  busy,
  problem,
  onClose,
  onPlay,
}: {
  piece: Piece;
  /** Is it played on keys? Some faults need key-ups. */
  keys: boolean;
  /** Is it a plan for the stand-in keyboard? Nothing is played yet then. */
  standIn: boolean;
  open: boolean;
  busy: boolean;
  problem: unknown;
  onClose: () => void;
  onPlay: (plan: Plan) => void;
}) {
  const known = useFaults(open);
  const [chosen, setChosen] = useState<Chosen[]>([]);
  const [skill, setSkill] = useState<Schemas["Level"]>(piece.level);
  const change = (index: number, part: Partial<Chosen>) =>
    setChosen((all) => all.map((one, i) => (i === index ? { ...one, ...part } : one)));
  const bars = piece.ruler.measures.slice(1).map((m) => [m.number, `bar ${m.number}`] as const);
  const faults = (known.data ?? []).filter((one) => keys || !one.keys_only);
  return (
    <Sheet
      open={open}
      onClose={onClose}
      title={standIn ? "How the student plays the stand-in" : "Let the simulated student play"}
    >
      <p className="mb-3 text-quiet">Human timing. Without a fault it is a good take of its level.</p>
      <div className="mb-3">
        <Choice label="Plays as" value={skill} options={levels()} onChange={setSkill} />
      </div>
      {known.isPending ? <Loading what="Asking what it can do" /> : null}
      {known.error ? <Problem error={known.error} /> : null}
      <ul className="space-y-3">
        {chosen.map((one, index) => {
          const fault = faults.find((f) => f.kind === one.kind);
          return (
            <li key={index} className="flex flex-wrap items-center gap-2 border-b border-line pb-3">
              <Choice
                hideLabel
                label="Fault"
                value={one.kind}
                options={faults.map((f) => [f.kind, f.words] as const)}
                onChange={(kind) => change(index, { kind })}
              />
              {fault?.unit === "measure" ? null : (
                <Choice
                  hideLabel
                  label="How much"
                  value={String(one.strength) as "0" | "1" | "2"}
                  options={STRENGTHS}
                  onChange={(strength) => change(index, { strength: Number(strength) as 0 | 1 | 2 })}
                />
              )}
              {fault?.needs_measure ? (
                <Choice
                  hideLabel
                  label="Where"
                  value={one.measure}
                  options={bars}
                  onChange={(measure) => change(index, { measure })}
                />
              ) : null}
              <Button
                look="quiet"
                aria-label="Remove this fault"
                onClick={() => setChosen((all) => all.filter((_, i) => i !== index))}
              >
                remove
              </Button>
            </li>
          );
        })}
      </ul>
      {chosen.length < MOST && faults.length ? (
        <Button
          look="quiet"
          className="mt-3"
          onClick={() =>
            setChosen((all) => [...all, { kind: faults[0]?.kind ?? "", strength: 1, measure: bars[0]?.[0] ?? "1" }])
          }
        >
          Add a fault
        </Button>
      ) : null}
      {problem ? (
        <div className="mt-3">
          <Problem error={problem} />
        </div>
      ) : null}
      <div className="mt-5 flex gap-3">
        <Button
          look="strong"
          disabled={busy}
          onClick={() =>
            onPlay({
              skill,
              faults: chosen.map((one) => {
                const fault = faults.find((f) => f.kind === one.kind);
                return {
                  kind: one.kind,
                  amount: fault?.amounts[one.strength] ?? 1,
                  measure: fault?.needs_measure ? one.measure : null,
                };
              }),
            })
          }
        >
          {standIn ? "Let it be so" : busy ? "Playing …" : "Let it play"}
        </Button>
        <Button onClick={onClose}>Cancel</Button>
      </div>
    </Sheet>
  );
}
