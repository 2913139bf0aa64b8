/** Whether the sound itself of a recording is kept: only where somebody agreed to it. */
import { useConsents } from "../../api/queries/recordings";

type Props = { student: number; chosen: number | null; onChoose: (id: number | null) => void };

export function KeepSound({ student, chosen, onChoose }: Props) {
  const consents = useConsents().data?.items.filter((one) => one.student_id === student) ?? [];
  if (!consents.length)
    return <span className="block text-sm text-quiet">The sound itself is not kept, only what is heard in it.</span>;
  return (
    <label className="block text-sm text-quiet">
      The sound itself:{" "}
      <select
        className="min-h-8 rounded border border-edge bg-card px-1 pointer-coarse:min-h-11"
        value={chosen ?? ""}
        onChange={(event) => {
          onChoose(event.target.value ? Number(event.target.value) : null);
        }}
      >
        <option value="">not kept</option>
        {consents.map((one) => (
          <option key={one.id} value={one.id}>
            kept, as {one.given_by} agreed
          </option>
        ))}
      </select>
    </label>
  );
}
