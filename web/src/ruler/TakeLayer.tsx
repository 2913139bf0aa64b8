/** A take on a row: pins that lean, and marks with their words. */
import { type Row, holds, leanPx, xOf } from "./geometry";
import { type Heights, type Mark, PIN_DOWN, PIN_UP, type Pin } from "./layout";

export function Pins({ row, pins, limit_ms, at }: { row: Row; pins: Pin[]; limit_ms: number; at: Heights }) {
  return (
    <>
      {pins
        .filter((pin) => holds(row, pin.onset_quarters))
        .map((pin) => {
          const x = xOf(row, pin.onset_quarters);
          const head =
            x + (pin.matters ? leanPx(pin.deviation_ms, limit_ms) : leanPx(pin.deviation_ms, limit_ms) * 0.35);
          const isLeft = pin.hand === "left";
          const y = isLeft ? at.left + PIN_DOWN - 8 : at.base - PIN_UP;
          const from = isLeft ? at.left : at.base;
          const colour = isLeft ? "var(--color-lefthand)" : "var(--color-righthand)";
          const size = pin.matters ? 5.5 : 3.5;
          const words = pinWords(pin);
          return (
            <g key={`${pin.hand}${pin.onset_quarters}`} stroke={colour} fill={colour}>
              <path
                d={`M${x} ${from}L${head} ${y}`}
                strokeWidth={pin.matters ? 3 : 1.4}
                opacity={pin.matters ? 1 : 0.75}
              />
              {isLeft ? (
                <rect x={head - size} y={y - size} width={2 * size} height={2 * size} stroke="none" />
              ) : (
                <circle cx={head} cy={y} r={size + 0.5} stroke="none" />
              )}
              <title>{words}</title>
            </g>
          );
        })}
    </>
  );
}

export function Marks({ row, marks, at }: { row: Row; marks: Mark[]; at: Heights }) {
  return (
    <g fontSize={14}>
      {marks
        .filter((mark) => holds(row, mark.onset_quarters))
        .map((mark, index, here) => {
          const x = xOf(row, mark.onset_quarters);
          if (mark.kind === "trap") {
            return (
              <path
                key={index}
                d={`M${x - 1} ${at.head + 11}l5.5-10 5.5 10zm5.5-6.500v3m0 1.200v1`}
                fill="var(--color-card)"
                stroke="var(--color-warn)"
                strokeWidth={1.6}
                strokeLinejoin="round"
              >
                <title>{mark.text}</title>
              </path>
            );
          }
          if (mark.kind === "change") {
            const next = here.slice(index + 1).find((one) => one.onset_quarters > mark.onset_quarters);
            const room = (next ? xOf(row, next.onset_quarters) : xOf(row, row.end)) - x;
            const isTrap = here.some((one) => one.kind === "trap" && one.onset_quarters === mark.onset_quarters);
            const shift = isTrap ? 14 : 0;
            return (
              <g key={index} fill="var(--color-quiet)">
                <path d={`M${x} ${at.head - 1}v13`} stroke="var(--color-quiet)" strokeWidth={2} />
                {room - shift > mark.text.length * 7.2 + 6 ? (
                  <text x={x + 4 + shift} y={at.head + 8} fontSize={14}>
                    {mark.text}
                  </text>
                ) : null}
                <title>{mark.text}</title>
              </g>
            );
          }
          if (mark.kind === "missing") {
            return (
              <circle
                key={index}
                cx={x}
                cy={at.base}
                r={5}
                fill="var(--color-card)"
                stroke="var(--color-warn)"
                strokeWidth={2}
              >
                <title>{mark.text}</title>
              </circle>
            );
          }
          if (mark.kind === "extra") {
            return (
              <path key={index} d={`M${x - 4} ${at.base - 4}l8 8m0-8l-8 8`} stroke="var(--color-warn)" strokeWidth={2}>
                <title>{mark.text}</title>
              </path>
            );
          }
          const flip = x > xOf(row, row.end) - 150;
          return (
            <g key={index}>
              <path d={`M${x} ${at.head - 2}v14`} stroke="var(--color-warn)" strokeWidth={3} />
              <text
                x={flip ? x - 5 : x + 5}
                y={at.head + 9}
                textAnchor={flip ? "end" : "start"}
                fill="var(--color-warn)"
                fontWeight={700}
              >
                {mark.text}
              </text>
            </g>
          );
        })}
    </g>
  );
}

/** A pin in words: whose strike, how far from the beat, which way. */
function pinWords(pin: Pin): string {
  const whose = pin.hand === "both" ? "" : `${pin.hand} hand, `;
  const off = `${Math.abs(Math.round(pin.deviation_ms))} ms ${pin.deviation_ms < 0 ? "early" : "late"}`;
  const share = pin.deviation_percent;
  return whose + off + (share === undefined ? "" : `, ${Math.abs(share).toFixed(0)} % of a beat`);
}
