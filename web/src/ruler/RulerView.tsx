/**
 * The beat ruler: time from left to right, tick lengths by metrical weight, the right hand above with
 * round ends, the left below with square ones, counts on it, strokes where hands meet. The same ruler
 * shows a take: each played strike is a pin on its written place, leaning left when early, right when late.
 */
import { type Ref, memo, useImperativeHandle, useLayoutEffect, useMemo, useRef, useState } from "react";

import type { Count, Counts, Measure, Ruler } from "../api/client";
import { type Row, countType, holds, layRows, leanPx, smallestGap, xOf } from "./geometry";

export type Pin = {
  onset_quarters: number;
  hand: "right" | "left" | "both";
  deviation_ms: number;
  /** Of a beat. */
  deviation_percent?: number | undefined;
  matters: boolean;
};
export type Mark = { onset_quarters: number; text: string; kind: "finding" | "missing" | "extra" | "trap" | "change" };

/** ``tied_at``: where the tie of a span leads on. */
export type Name = { onset_quarters: number; hand: "right" | "left"; text: string; tied_at?: number };

export type RulerHandle = { moveCursor: (onset: number | null) => void; showBar: (start_quarters: number) => void };

type Props = {
  ruler: Ruler;
  counts: Counts | undefined;
  hands: "right" | "left" | "both";
  pins?: Pin[];
  pinLimit_ms?: number;
  marks?: Mark[];
  /** Names written into the spans. */
  names?: readonly Name[];
  passage?: { from: number; to: number } | null;
  onBar?: (index: number, extend: boolean) => void;
  /** Counts can be chosen, to be said otherwise. */
  onCount?: (count: Count) => void;
  chosenCount?: number | null;
  handle?: Ref<RulerHandle>;
};

// What does not change with the counts is drawn once (memo): a choice redraws words and buttons only.

// Heights from the top of a row.
const TOP = 26;
const RIGHT_Y = TOP + 14;
const BASE_Y = TOP + 58;
const COUNT_Y = BASE_Y + 21;
const LEFT_Y = BASE_Y + 32;
const THICK = 15;
const PIN_UP = 34;
/** A bar narrower than this has room for its name only. */
const LETTER_PX = 72;
const PIN_DOWN = 42;

export function RulerView({
  ruler,
  counts,
  hands,
  pins,
  pinLimit_ms = 60,
  marks = [],
  names = [],
  passage,
  onBar,
  onCount,
  chosenCount = null,
  handle,
}: Props) {
  const box = useRef<HTMLDivElement>(null);
  const cursors = useRef<(SVGGElement | null)[]>([]);
  const [width, setWidth] = useState(760);

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    setWidth(element.clientWidth);
    return () => observer.disconnect();
  }, []);

  const gap = useMemo(() => smallestGap((counts?.counts ?? []).map((c) => c.onset_quarters)), [counts]);
  const rows = useMemo(() => layRows(ruler.measures, width, gap), [ruler, width, gap]);

  useImperativeHandle(
    handle,
    () => ({
      moveCursor(onset) {
        rows.forEach((row, index) => {
          const group = cursors.current[index];
          if (!group) return;
          const here = onset !== null && holds(row, onset);
          group.setAttribute("visibility", here ? "visible" : "hidden");
          if (here) {
            group.setAttribute("transform", `translate(${xOf(row, onset)} 0)`);
            const svg = group.ownerSVGElement;
            const edge = svg?.getBoundingClientRect();
            // What is fixed over the page's foot hides a row too.
            const cover = document.querySelector("[data-covers]")?.getBoundingClientRect();
            const floor = cover && cover.left < 40 ? cover.top : window.innerHeight;
            if (svg && edge && (edge.bottom > floor || edge.top < 0))
              svg.scrollIntoView({ block: cover ? "start" : "center" });
          }
        });
      },
      showBar(start_quarters) {
        box.current?.querySelector(`[data-bar="${start_quarters}"]`)?.scrollIntoView({ block: "center" });
      },
    }),
    [rows],
  );

  const isTake = pins !== undefined;
  const height = LEFT_Y + (isTake ? 44 : THICK + 14);
  return (
    <div ref={box} className="w-full">
      {rows.map((row, index) => (
        <div key={row.start} className="relative mb-3 [content-visibility:auto]" style={{ height }}>
          {onCount && counts ? <CountButtons row={row} counts={counts} chosen={chosenCount} onCount={onCount} /> : null}
          <BarHeads row={row} ruler={ruler} passage={passage ?? null} onBar={onBar} />
          <svg
            width={width}
            height={height}
            role="img"
            aria-label={rowLabel(row, counts)}
            className="block scroll-mt-8"
          >
            <Ground row={row} passage={passage ?? null} ruler={ruler} height={height} />
            {isTake ? null : <Spans row={row} ruler={ruler} hands={hands} />}
            {names.length ? <Names row={row} names={names} /> : null}
            <Ticks row={row} />
            {hands === "both" && !isTake ? <Joins row={row} ruler={ruler} /> : null}
            {isTake ? <Pins row={row} pins={pins} limit_ms={pinLimit_ms} /> : null}
            {counts ? <CountWords row={row} counts={counts} /> : null}
            <Marks row={row} marks={marks} />
            <g
              ref={(element) => {
                cursors.current[index] = element;
              }}
              visibility="hidden"
            >
              <path d={`M0 ${TOP - 2}V${LEFT_Y + THICK + 6}`} stroke="var(--color-ink)" strokeWidth={2.5} />
              <path d={`M-6 ${TOP - 8}h12l-6 8z`} fill="var(--color-ink)" />
            </g>
          </svg>
        </div>
      ))}
    </div>
  );
}

function rowLabel(row: Row, counts: Counts | undefined): string {
  const first = row.measures[0]?.number;
  const last = row.measures.at(-1)?.number;
  const said = (counts?.counts ?? [])
    .filter((c) => holds(row, c.onset_quarters))
    .map((c) => (c.kind === "strike" ? c.say : `${c.say} (${c.kind})`));
  return `Bars ${first} to ${last}. ${said.length ? `Count: ${said.join(", ")}.` : ""}`;
}

type Passage = { from: number; to: number } | null;

function inPassage(ruler: Ruler, passage: Passage, measure: Measure): boolean {
  if (!passage) return false;
  const index = ruler.measures.indexOf(measure);
  return index >= passage.from && index <= passage.to;
}

const BarHeads = memo(function BarHeads({
  row,
  ruler,
  passage,
  onBar,
}: {
  row: Row;
  ruler: Ruler;
  passage: Passage;
  onBar: Props["onBar"];
}) {
  return (
    <>
      {row.measures.map((measure) => {
        const left = xOf(row, measure.start_quarters);
        const chosen = inPassage(ruler, passage, measure);
        const index = ruler.measures.indexOf(measure);
        const name =
          (measure.bar_in_line === 0 ? "pickup" : measure.number) +
          (measure.pass_number > 1 ? ` (${measure.pass_number})` : "");
        return (
          <div
            key={measure.start_quarters}
            data-bar={measure.start_quarters}
            className="absolute top-0 flex justify-between text-sm"
            style={{ left, width: measure.length_quarters * row.scale }}
          >
            {onBar ? (
              <button
                type="button"
                aria-pressed={chosen}
                aria-label={`bar ${measure.number}, line ${measure.line}, bar ${measure.bar_in_line}`}
                className={`min-w-6 rounded px-1 text-left font-bold ${chosen ? "bg-ink text-card" : "text-ink hover:bg-here"}`}
                onClick={(event) => onBar(index, event.shiftKey)}
              >
                {name}
              </button>
            ) : (
              <span className="px-1 font-bold">{name}</span>
            )}
            {measure.length_quarters * row.scale > LETTER_PX ? (
              <span className="pr-1 text-quiet" title="Bars with the same letter have the same rhythm">
                {measure.letter}
              </span>
            ) : null}
          </div>
        );
      })}
    </>
  );
});

const Ground = memo(function Ground({
  row,
  passage,
  ruler,
  height,
}: {
  row: Row;
  passage: Passage;
  ruler: Ruler;
  height: number;
}) {
  return (
    <>
      {row.measures
        .filter((m) => inPassage(ruler, passage, m))
        .map((m) => (
          <rect
            key={m.start_quarters}
            x={xOf(row, m.start_quarters)}
            y={TOP - 4}
            width={m.length_quarters * row.scale}
            height={height - TOP}
            fill="var(--color-here)"
          />
        ))}
    </>
  );
});

const Spans = memo(function Spans({ row, ruler, hands }: { row: Row; ruler: Ruler; hands: Props["hands"] }) {
  const gap = 3;
  return (
    <>
      {ruler.right
        .filter((s) => holds(row, s.onset_quarters))
        .map((s) => (
          <rect
            key={`r${s.onset_quarters}`}
            x={xOf(row, s.onset_quarters)}
            y={RIGHT_Y}
            width={Math.max(4, s.length_quarters * row.scale - gap)}
            height={THICK}
            rx={THICK / 2}
            fill="var(--color-righthand)"
            opacity={hands === "left" ? 0.25 : 1}
          />
        ))}
      {ruler.left
        .filter((s) => holds(row, s.onset_quarters))
        .map((s) => (
          <rect
            key={`l${s.onset_quarters}`}
            x={xOf(row, s.onset_quarters)}
            y={LEFT_Y}
            width={Math.max(4, s.length_quarters * row.scale - gap)}
            height={THICK}
            fill="var(--color-lefthand)"
            opacity={hands === "right" ? 0.25 : 1}
          />
        ))}
    </>
  );
});

function Names({ row, names }: { row: Row; names: readonly Name[] }) {
  return (
    <g fontSize={12} fontWeight={700} fill="#fff">
      {names
        .filter((name) => holds(row, name.onset_quarters))
        .map((name) => (
          <g key={`${name.hand}${name.onset_quarters}`}>
            <text x={xOf(row, name.onset_quarters) + 5} y={(name.hand === "right" ? RIGHT_Y : LEFT_Y) + 11.5}>
              {name.text}
            </text>
            {name.tied_at === undefined ? null : (
              <path
                d={`M${xOf(row, name.tied_at) - 12} ${name.hand === "right" ? RIGHT_Y - 1 : LEFT_Y + THICK + 1}q12 ${name.hand === "right" ? -9 : 9} 24 0`}
                fill="none"
                stroke="var(--color-ink)"
                strokeWidth={2.25}
              />
            )}
          </g>
        ))}
    </g>
  );
}

/** Tick lengths by depth: the bar longest, each weaker level shorter. */
const TICK_PX = [20, 15, 11, 7, 4];

const Ticks = memo(function Ticks({ row }: { row: Row }) {
  return (
    <g stroke="var(--color-ink)">
      <path d={`M${xOf(row, row.start)} ${BASE_Y}H${xOf(row, row.end)}`} strokeWidth={1.5} />
      {row.measures.map((measure) => (
        <g key={measure.start_quarters}>
          <path
            d={`M${xOf(row, measure.start_quarters)} ${TOP - 2}V${LEFT_Y + THICK + 6}`}
            strokeWidth={1.25}
            opacity={0.55}
          />
          {measure.ticks.map((tick) => {
            const x = xOf(row, measure.start_quarters + tick.offset_quarters);
            const length = TICK_PX[Math.min(tick.depth, TICK_PX.length - 1)];
            return (
              <path
                key={tick.offset_quarters}
                d={`M${x} ${BASE_Y}v-${length}`}
                strokeWidth={tick.depth < 3 ? 1.5 : 1}
              />
            );
          })}
        </g>
      ))}
      <path d={`M${xOf(row, row.end)} ${TOP - 2}V${LEFT_Y + THICK + 6}`} strokeWidth={1.25} opacity={0.55} />
    </g>
  );
});

const Joins = memo(function Joins({ row, ruler }: { row: Row; ruler: Ruler }) {
  return (
    <g stroke="var(--color-ink)" strokeWidth={2.25}>
      {ruler.together
        .filter((onset) => holds(row, onset))
        .map((onset) => (
          <path
            key={onset}
            d={`M${xOf(row, onset)} ${RIGHT_Y - 3}V${BASE_Y + 8}M${xOf(row, onset)} ${LEFT_Y - 6}v${THICK + 9}`}
          />
        ))}
    </g>
  );
});

/** A button over each count, as large as there is room, so that it is reached by key, mouse and finger. */
function CountButtons({
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
            className={`absolute z-10 rounded-sm border ${chosen === c.onset_quarters ? "border-ink" : "border-transparent hover:border-quiet"} ${c.is_changed ? "bg-warn/15" : ""}`}
            style={{ left, width: Math.min(width, 44), top: COUNT_Y - 16, height: 24 }}
          />
        );
      })}
    </>
  );
}

/** Strike bold; hold in brackets; rest under a bar of silence; a diamond marks a number that is said but
 * not played, because a syncopation lies across it. */
function CountWords({ row, counts }: { row: Row; counts: Counts }) {
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

function Pins({ row, pins, limit_ms }: { row: Row; pins: Pin[]; limit_ms: number }) {
  return (
    <>
      {pins
        .filter((pin) => holds(row, pin.onset_quarters))
        .map((pin) => {
          const x = xOf(row, pin.onset_quarters);
          const head =
            x + (pin.matters ? leanPx(pin.deviation_ms, limit_ms) : leanPx(pin.deviation_ms, limit_ms) * 0.35);
          const isLeft = pin.hand === "left";
          const y = isLeft ? BASE_Y + PIN_DOWN + 18 : BASE_Y - PIN_UP;
          const from = isLeft ? BASE_Y + 26 : BASE_Y;
          const colour = isLeft ? "var(--color-lefthand)" : "var(--color-righthand)";
          const size = pin.matters ? 5.5 : 3.5;
          const words = `${pin.hand === "both" ? "" : `${pin.hand} hand, `}${Math.abs(Math.round(pin.deviation_ms))} ms ${pin.deviation_ms < 0 ? "early" : "late"}${pin.deviation_percent === undefined ? "" : `, ${Math.abs(pin.deviation_percent).toFixed(0)} % of a beat`}`;
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

function Marks({ row, marks }: { row: Row; marks: Mark[] }) {
  return (
    <g fontSize={13}>
      {marks
        .filter((mark) => holds(row, mark.onset_quarters))
        .map((mark, index, here) => {
          const x = xOf(row, mark.onset_quarters);
          if (mark.kind === "trap") {
            return (
              <path
                key={index}
                d={`M${x - 1} ${TOP + 11}l5.5-10 5.5 10zm5.5-6.500v3m0 1.200v1`}
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
                <path d={`M${x} ${TOP - 1}v13`} stroke="var(--color-quiet)" strokeWidth={2} />
                {room - shift > mark.text.length * 6.2 + 6 ? (
                  <text x={x + 4 + shift} y={TOP + 10} fontSize={12}>
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
                cy={BASE_Y}
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
              <path key={index} d={`M${x - 4} ${BASE_Y - 4}l8 8m0-8l-8 8`} stroke="var(--color-warn)" strokeWidth={2}>
                <title>{mark.text}</title>
              </path>
            );
          }
          const flip = x > xOf(row, row.end) - 150;
          return (
            <g key={index}>
              <path d={`M${x} ${TOP - 2}v14`} stroke="var(--color-warn)" strokeWidth={3} />
              <text
                x={flip ? x - 5 : x + 5}
                y={TOP + 9}
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
