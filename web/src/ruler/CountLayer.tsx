/** The counts of a row, and buttons over them. */
import type { Count, Counts } from "../api/client";
import { type Row, countType, holds, xOf } from "./geometry";
import { COUNT_Y } from "./layout";

/** A button over each count, as large as there is room, so that it is reached by key, mouse and finger. */
export function CountButtons({
  row,
  counts,
  chosen,
  onCount,
}: {
  row: Row;
  counts: Counts;
  chosen: number | null;
  onCount: (count: Count) => void;
}) {
  return (
    <>
      {counts.counts.map((c, index) => {
        if (!holds(row, c.onset_quarters)) return null;
        const left = xOf(row, c.onset_quarters);
        const next = counts.counts[index + 1]?.onset_quarters ?? row.end;
        const width = Math.max(10, xOf(row, Math.min(next, row.end)) - left - 1);
        return (
          <button
            key={c.onset_quarters}
            type="button"
            onClick={() => onCount(c)}
            aria-label={`bar ${c.measure}: ${c.say}, ${c.kind}`}
            aria-pressed={chosen === c.onset_quarters}
            className={[
              "absolute z-10 rounded-sm border",
              chosen === c.onset_quarters ? "border-ink" : "border-transparent hover:border-quiet",
              c.is_changed ? "bg-warn/15" : "",
            ].join(" ")}
            style={{ left, width: Math.min(width, 44), top: COUNT_Y - 16, height: 24 }}
          />
        );
      })}
    </>
  );
}

/** Strike bold; hold in brackets; rest under a bar of silence; a diamond marks a number that is said but
 * not played, because a syncopation lies across it. */
export function CountWords({ row, counts }: { row: Row; counts: Counts }) {
  const silent = new Set(counts.syncopations.filter((s) => s.taught).map((s) => s.silent_quarters));
  return (
    <g fontSize={15} fill="var(--color-ink)">
      {counts.counts.map((c, index) => {
        if (!holds(row, c.onset_quarters)) return null;
        const x = xOf(row, c.onset_quarters) + 4;
        const next = counts.counts[index + 1]?.onset_quarters ?? row.end;
        return (
          <CountWord
            key={c.onset_quarters}
            count={c}
            x={x}
            room_px={xOf(row, Math.min(next, row.end)) - x + 3}
            anyway={c.kind !== "strike" && silent.has(c.onset_quarters)}
          />
        );
      })}
    </g>
  );
}

function CountWord({ count, x, anyway, room_px }: { count: Count; x: number; anyway: boolean; room_px: number }) {
  const width = count.say.length * 7;
  const said = count.kind === "hold" ? `(${count.say})` : count.say;
  const type = countType(said, room_px);
  return (
    <g>
      <text
        x={count.kind === "hold" ? x - 2 : x}
        y={COUNT_Y}
        fontSize={type.size}
        {...(type.pressed ? { textLength: type.pressed, lengthAdjust: "spacingAndGlyphs" as const } : {})}
        fontWeight={count.kind === "strike" ? 750 : 400}
        fill={count.kind === "strike" ? "var(--color-ink)" : "var(--color-quiet)"}
      >
        {said}
      </text>
      {count.kind === "rest" ? (
        <path d={`M${x - 1} ${COUNT_Y - 13.5}h${width + 2}`} stroke="var(--color-quiet)" strokeWidth={2} />
      ) : null}
      {anyway ? (
        <path
          d={`M${x + width / 2 + 4} ${COUNT_Y - 20}l4 4-4 4-4-4z`}
          fill="var(--color-card)"
          stroke="var(--color-ink)"
          strokeWidth={1.5}
        >
          <title>said anyway: nothing is played here</title>
        </path>
      ) : null}
    </g>
  );
}
