/** What the teacher heard, laid beside what was measured. */
import { useBeside, useListenings } from "../../api/queries/takes";
import type { Schemas } from "../../api/client";
import { count, timeOf } from "../../lib/words";
import { Choice } from "../../ui/Choice";
import { Problem } from "../../ui/kit";

const MEASURED: Record<string, string> = {
  missing: "not played",
  "wrong-notes": "another key or side",
  extra: "one too many",
  late: "late",
  early: "early",
  hesitation: "the beat stops",
  restart: "went back to here",
};

export function BesidePanel({
  pieceId,
  takeId,
  chosen,
  onChoose,
  onShow,
}: {
  pieceId: number;
  takeId: number;
  chosen: number | null;
  onChoose: (id: number | null) => void;
  onShow: (onset_quarters: number) => void;
}) {
  const heard = useListenings(pieceId);
  const beside = useBeside(takeId, chosen);
  if (!heard.data?.length) return null;
  const options = [
    ["", "nothing"] as const,
    ...heard.data.map(
      (one) => [String(one.id), `heard ${timeOf(one.created_at)}: ${count(one.slips.length, "slip")}`] as const,
    ),
  ];
  const rows = beside.data ?? [];
  return (
    <section aria-label="Heard beside measured" className="mt-5 rounded-lg border border-edge bg-card p-5">
      <h2 className="mb-2 font-bold">What you heard, beside it</h2>
      <Choice
        label="Lay beside"
        value={chosen === null ? "" : String(chosen)}
        options={options}
        onChange={(id) => onChoose(id ? Number(id) : null)}
      />
      {beside.error ? <Problem error={beside.error} /> : null}
      {chosen !== null && beside.data ? (
        <>
          <p className="mt-2">{summary(rows)}</p>
          <ul className="divide-y divide-line">
            {rows.map((row, index) => (
              <li key={index}>
                <button
                  type="button"
                  onClick={() => onShow(row.onset_quarters)}
                  className="grid w-full grid-cols-[minmax(0,1fr)_6rem_9rem] gap-2 rounded px-1 py-1 text-left text-sm hover:bg-here"
                >
                  <span>{row.place_text}</span>
                  <span>{row.heard ? "◇ heard" : "–"}</span>
                  <span>{row.measured ? (MEASURED[row.measured] ?? row.measured) : "within the limits"}</span>
                </button>
              </li>
            ))}
          </ul>
        </>
      ) : null}
    </section>
  );
}

function summary(rows: Schemas["BesidePublic"][]): string {
  const both = rows.filter((row) => row.heard && row.measured).length;
  const heard = rows.filter((row) => row.heard && !row.measured).length;
  const measured = rows.length - both - heard;
  return `${both} in both, ${heard} that only you heard, ${measured} that only the checker measured.`;
}
