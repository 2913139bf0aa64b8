/** How a piece is counted: the choices, each with its reason, and what to look out for, each leading to its bar. */
import { type ReactNode, useMemo, useState } from "react";

import type { ChoiceLayer, Counts, Density, Compound, System } from "../../api/client";
import { usePieceChoices, usePutChoices } from "../../api/queries/pieces";
import { useNaming } from "../../api/queries/studio";
import { beatsIn, compounds, densities, restSchools, systems } from "../../api/trade";
import { Choice } from "../../ui/Choice";
import { Problem } from "../../ui/kit";

export function CountPanel({
  pieceId,
  bpm,
  counts,
  disabled,
  onBar,
  isOpen = false,
}: {
  pieceId: number;
  bpm: number;
  counts: Counts;
  disabled: boolean;
  onBar: (onset_quarters: number) => void;
  isOpen?: boolean;
}) {
  const naming = useNaming();
  const stored = usePieceChoices(pieceId);
  const put = usePutChoices(pieceId, bpm, counts.hand);
  const [isForHand, setForHand] = useState(false);
  const { hand, reasons } = counts;
  const single = isForHand && hand !== "both";
  const layer: ChoiceLayer = (single ? stored.data?.hands?.[hand] : stored.data?.piece) ?? {};
  const change = (part: Partial<ChoiceLayer>) => {
    if (!stored.data || disabled) return;
    const changed = { ...layer, ...part };
    put.mutate(
      single
        ? { ...stored.data, hands: { ...stored.data.hands, [hand]: changed } }
        : { ...stored.data, piece: changed },
    );
  };
  const hasUnits = counts.signatures.some((one) => one.has_units);
  const groupings = [
    ["", "as the beams show, or as is usual"],
    ...counts.groupings.map((text) => [text, text.replaceAll("+", " + ")] as const),
  ] as const;
  const beats = [
    ["", "as the time signature says"],
    ...beatsIn(naming).filter(([key]) => counts.beats.includes(key)),
  ] as const;
  return (
    <section aria-label="How it is counted" className="mb-8">
      <h2 className="mb-2 text-xl font-bold">How it is counted</h2>
      {stored.error ? <Problem error={stored.error} /> : null}
      {put.error ? <Problem error={put.error} /> : null}
      <div className={`grid gap-x-5 gap-y-2 ${isOpen ? "" : "lg:grid-cols-2"}`}>
        {isOpen && hand !== "both" ? (
          <Choice
            label="Chosen for"
            value={single ? "hand" : "piece"}
            options={
              [
                ["piece", "the whole piece"],
                ["hand", `the ${hand} hand alone`],
              ] as const
            }
            onChange={(value) => setForHand(value === "hand")}
          />
        ) : null}
        <Reasoned why={isOpen ? reasons.system : ""}>
          <Choice
            label="Way of counting"
            value={counts.system}
            options={systems()}
            onChange={(system: System) => change({ system })}
          />
        </Reasoned>
        <Reasoned why={isOpen ? reasons.density : ""}>
          <Choice
            label="How much to say"
            value={counts.density}
            options={densities()}
            onChange={(density: Density) => change({ density })}
          />
        </Reasoned>
        {counts.counts.some((count) => count.kind === "rest") ? (
          <Reasoned why={isOpen ? reasons.rests : ""}>
            <Choice
              label="In a rest say"
              value={counts.rest_words}
              options={restSchools()}
              onChange={(rests) => change({ rests })}
            />
          </Reasoned>
        ) : null}
        {hasUnits ? (
          <Reasoned why={reasons.compound}>
            <Choice
              label="Counted"
              value={layer.compound ?? "auto"}
              options={compounds()}
              onChange={(compound: Compound) => change({ compound })}
            />
          </Reasoned>
        ) : null}
        {beats.length > 2 ? (
          <Reasoned why={isOpen ? reasons.beat : ""}>
            <Choice
              label="The beat"
              value={layer.beat ?? ""}
              options={beats}
              onChange={(beat) => change({ beat: beat === "" ? null : beat })}
            />
          </Reasoned>
        ) : null}
        {counts.groupings.length ? (
          <Reasoned why={isOpen ? reasons.grouping : ""}>
            <Choice
              label="Grouped"
              value={layer.grouping ?? ""}
              options={groupings}
              onChange={(grouping) => change({ grouping: grouping === "" ? null : grouping })}
            />
          </Reasoned>
        ) : null}
      </div>
      <Worth counts={counts} />
      <LookOut counts={counts} onBar={onBar} isOpen={isOpen} />
      <Rests counts={counts} onBar={onBar} />
    </section>
  );
}

/** A choice with the sentence that says why it is so. */
function Reasoned({ why, children }: { why: string; children: ReactNode }) {
  return (
    <div>
      {children}
      {why ? <p className="mt-1 text-sm text-quiet">{why}</p> : null}
    </div>
  );
}

/** What each written length is worth here, in counts. */
function Worth({ counts }: { counts: Counts }) {
  const signatures = [...new Set(counts.worth.map((one) => one.signature))];
  return (
    <div className="mt-2 text-sm">
      {signatures.map((signature) => (
        <p key={signature}>
          <span className="text-quiet">In {signature}:</span>{" "}
          {counts.worth
            .filter((one) => one.signature === signature)
            .map((one, index) => (
              <span key={one.length}>
                {index ? ", " : ""}
                {one.length} <b>{fractionWords(one.counts)}</b>
              </span>
            ))}
        </p>
      ))}
    </div>
  );
}

/** Fractions that the shipped letters have. */
const FRACTIONS: Record<string, string> = { "1/2": "½", "1/4": "¼", "3/4": "¾", "3/2": "1½" };
const fractionWords = (text: string) => FRACTIONS[text] ?? text;

type Sight = { onset_quarters: number; what: string; place: string };

/** Traps, cells, syncopations and changes of division in the order in which they come. */
function LookOut({
  counts,
  onBar,
  isOpen,
}: {
  counts: Counts;
  onBar: (onset_quarters: number) => void;
  isOpen: boolean;
}) {
  const sights = useMemo(() => sightsOf(counts), [counts]);
  if (!sights.length) return null;
  return (
    <details className="mt-3" open={isOpen}>
      <summary className="cursor-pointer py-1 font-bold">What to look out for ({sights.length})</summary>
      <ul className="mt-1 divide-y divide-line">
        {sights.map((sight, index) => (
          <li key={index} className="flex flex-wrap items-baseline gap-x-3 py-1">
            <button
              type="button"
              className="text-left underline decoration-line decoration-2 underline-offset-4 hover:decoration-ink"
              onClick={() => onBar(sight.onset_quarters)}
            >
              {sight.place}
            </button>
            <span>{sight.what}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** Every written silence: what is said in it, the entry after it, and what it is good for. */
function Rests({ counts, onBar }: { counts: Counts; onBar: (onset_quarters: number) => void }) {
  if (!counts.rests.length) return null;
  return (
    <details className="mt-3">
      <summary className="cursor-pointer py-1 font-bold">Rests ({counts.rests.length})</summary>
      <ul className="mt-1 divide-y divide-line">
        {counts.rests.map((rest) => (
          <li key={`${rest.hand} ${rest.onset_quarters}`} className="py-1">
            <button
              type="button"
              className="text-left underline decoration-line decoration-2 underline-offset-4 hover:decoration-ink"
              onClick={() => onBar(rest.onset_quarters)}
            >
              {rest.place_text}
            </button>{" "}
            <span>
              {rest.hand} hand: {rest.length_name} rest{rest.say ? `, said “${rest.say}”` : ""};{" "}
              {rest.entry_text ? `comes in again at ${rest.entry_text}` : "does not come in again"}.
            </span>
            <span className="block text-sm text-quiet">{rest.good_for}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}

export function sightsOf(counts: Counts): Sight[] {
  return [
    ...counts.traps.map((t) => ({ onset_quarters: t.onset_quarters, what: t.text, place: t.place_text })),
    ...counts.cells.map((c) => ({
      onset_quarters: c.onset_quarters,
      what: `${c.hand} hand: ${c.name}, ${c.units}`,
      place: c.place_text,
    })),
    ...counts.syncopations.map((s) => ({
      onset_quarters: s.onset_quarters,
      what: `${s.hand} hand: ${s.name}`,
      place: s.place_text,
    })),
    ...counts.changes.map((c) => ({
      onset_quarters: c.onset_quarters,
      what: `from ${c.before} to ${c.after}`,
      place: c.place_text,
    })),
  ].sort((a, b) => a.onset_quarters - b.onset_quarters);
}
