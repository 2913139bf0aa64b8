/** What was heard in listening mode, newest first. */
import { useDeleteListening, useListenings } from "../../api/queries/takes";
import { count, timeOf, plainBpm } from "../../lib/words";
import { Problem } from "../../ui/kit";
import { KeptRow } from "./KeptRow";

export function HeardList({ pieceId }: { pieceId: number }) {
  const heard = useListenings(pieceId);
  const remove = useDeleteListening(pieceId);
  if (heard.error) return <Problem error={heard.error} />;
  if (!heard.data?.length) return null;
  return (
    <section aria-label="Heard" className="mt-5">
      <h2 className="mb-1 text-lg font-bold">Heard</h2>
      <ul className="divide-y divide-line">
        {heard.data.map((one) => (
          <KeptRow
            key={one.id}
            id={one.id}
            mark="◇"
            words={one.slips.length ? count(one.slips.length, "slip") : "no slip"}
            remove={remove}
            what={{ name: `what was heard ${timeOf(one.created_at)}`, gone: "It is removed." }}
          >
            {one.slips.map((slip) => slip.place_text).join("; ") || "Nothing marked."}
            <span className="block text-sm text-quiet">
              {one.hands === "both" ? "both hands" : `${one.hands} hand`} · asked {plainBpm(one.bpm)} ·{" "}
              {timeOf(one.created_at)} · open a take to lay it beside
            </span>
          </KeptRow>
        ))}
      </ul>
      {remove.error ? <Problem error={remove.error} /> : null}
    </section>
  );
}
