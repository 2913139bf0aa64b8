/** What of a take is drawn on its ruler: pins for strikes, marks for what is missing, too many, found, or heard. */
import type { CheckDocument, Place, Schemas, Take, Verdict } from "../../api/client";
import { findingMark } from "../../api/trade";
import type { Mark, Pin } from "../../ruler/layout";

export function pinsOf(checked: CheckDocument): Pin[] {
  return checked.notes.map((note) => ({
    onset_quarters: note.onset_quarters,
    hand: note.hand,
    deviation_ms: note.deviation_ms,
    deviation_percent: note.deviation_percent,
    matters: Math.abs(note.deviation_ms) > checked.limits.deviation_ms + note.uncertainty_ms,
  }));
}

/** The bar of a place, the time through that is meant. */
export function barOf(take: Take, place: Pick<Place, "measure" | "pass">) {
  return take.ruler.measures.find((m) => m.number === place.measure && m.pass_number === place.pass);
}

export function marksOf(take: Take, checked: CheckDocument, verdict: Verdict): Mark[] {
  const at = (place: { measure: string; offset: string; pass: number }) => {
    const [over, under] = place.offset.split("/").map(Number);
    return (barOf(take, place)?.start_quarters ?? 0) + (over ?? 0) / (under ?? 1);
  };
  const marks: Mark[] = [
    ...checked.missing.map((one) => ({
      onset_quarters: one.onset_quarters,
      text: "not played",
      kind: "missing" as const,
    })),
    ...checked.wrong.map((one) => ({
      onset_quarters: one.onset_quarters,
      text: checked.source === "midi" ? "another key" : "the other side",
      kind: "extra" as const,
    })),
    ...checked.extra.flatMap((one) =>
      one.onset_quarters === null
        ? []
        : [{ onset_quarters: one.onset_quarters, text: "too many", kind: "extra" as const }],
    ),
  ];
  const { place, finding, status } = verdict;
  if (place && finding) marks.push({ onset_quarters: at(place), text: findingMark(finding.code), kind: "finding" });
  if (place && status === "could-not-follow")
    marks.push({ onset_quarters: at(place), text: "lost here", kind: "finding" });
  return marks;
}

export function heardMarks(rows: Schemas["BesidePublic"][]): Mark[] {
  return rows
    .filter((row) => row.heard)
    .map((row) => ({ onset_quarters: row.onset_quarters, text: "you heard a slip", kind: "change" as const }));
}
