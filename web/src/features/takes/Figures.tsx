/** The figures behind a verdict: all measured, with what they stand on and what was withheld. */
import { plainBpm } from "../../lib/words";
import type { CheckDocument, Schemas, Take } from "../../api/client";

const signed = (value: number, digits = 1) =>
  `${value > 0 ? "+" : value < 0 ? "−" : ""}${Math.abs(value).toFixed(digits)}`;

const LEVELS = {
  good: "good",
  "too-quiet": "too quiet: move nearer, or turn the microphone up",
  clipping: "too loud: it is cut off at the top; move away, or turn the microphone down",
} as const;

const tuned = (cents: number | null) =>
  cents === null ? "not known" : Math.abs(cents) < 5 ? "in tune" : `${signed(cents, 0)} cents`;

export function Figures({ take, checked }: { take: Take; checked: CheckDocument }) {
  const { tempo, together } = checked;
  const { pooled } = checked;
  return (
    <details className="mt-5 rounded-lg border border-edge bg-card p-5">
      <summary className="cursor-pointer py-1 font-bold">Figures</summary>
      <div className="mt-3 grid items-start gap-x-8 gap-y-5 text-sm md:grid-cols-2">
        <Table
          title="Tempo"
          rows={[
            ["assigned", plainBpm(tempo.assigned_bpm)],
            ["played (median of the bars)", tempo.median_bpm === null ? "–" : tempo.median_bpm.toFixed(1)],
            [
              "off",
              tempo.off_percent === null
                ? "–"
                : `${signed(tempo.off_percent)} % (limit ${checked.limits.tempo_percent.toFixed(0)} %)`,
            ],
            [
              "drift, first to last bar",
              tempo.drift_percent === null
                ? "–"
                : `${signed(tempo.drift_percent)} % (limit ${checked.limits.drift_percent.toFixed(0)} %)`,
            ],
          ]}
        />
        <Table
          title="Hands together"
          rows={[
            ["points", String(together.points)],
            [
              "apart (median)",
              together.median_ms === null
                ? "–"
                : `${together.median_ms.toFixed(0)} ms (limit ${checked.limits.together_ms} ms)`,
            ],
            [
              "right after left (mean)",
              together.mean_signed_ms === null ? "–" : `${signed(together.mean_signed_ms, 0)} ms`,
            ],
            ["spread of that (SD)", together.spread_ms === null ? "–" : `${together.spread_ms.toFixed(0)} ms`],
            ["who leads", together.leader === "none" ? "nobody" : `the ${together.leader} hand`],
          ]}
        />
        <Table
          title="Strikes"
          rows={[
            ["matched", String(checked.matched)],
            ["not played", String(checked.missing.length)],
            ["too many", String(checked.extra.length)],
            [checked.source === "taps" ? "on the other side" : "another key", String(checked.wrong.length)],
            ["grace notes and ornaments", String(checked.ornaments.length)],
            ["gone back", String(checked.restarts.length)],
            [
              "the beat stopped",
              checked.hesitations
                .map((h) => `before bar ${h.measure} by ${h.excess_beats.toFixed(2)} beats`)
                .join("; ") || "nowhere",
            ],
          ]}
        />
        {checked.audio ? (
          <Table
            title="Recording"
            rows={[
              [
                "length",
                `${checked.audio.seconds.toFixed(0)} s at ${(checked.audio.sample_rate / 1000).toFixed(1)} kHz`,
              ],
              ["level", LEVELS[checked.audio.level]],
              [
                "the room, below the playing",
                checked.audio.noise_db === null ? "not known" : `${checked.audio.noise_db.toFixed(0)} dB`,
              ],
              ["piano, against A = 440 Hz", tuned(checked.audio.tuning_cents)],
              ["hands told apart", `${checked.audio.told} of ${checked.audio.chances} times that both strike`],
            ]}
          />
        ) : null}
        {pooled.deviations.length ? (
          <Table
            title="Round the student’s own beat"
            rows={pooled.deviations.map((one) => [
              `${one.hand === "both" ? "strikes" : `${one.hand} hand`} (${one.notes})`,
              `spread ${one.spread_ms.toFixed(0)} ms (${one.spread_percent.toFixed(1)} %), mean ${signed(one.mean_ms, 0)} ms`,
            ])}
          />
        ) : null}
        {pooled.evenness.length ? (
          <table>
            <caption className="mb-1 text-left font-bold">Evenness of equal notes</caption>
            <thead className="text-left text-quiet">
              <tr>
                <th>hand</th>
                <th>notes</th>
                <th>intervals</th>
                <th>CV</th>
                <th>nPVI</th>
              </tr>
            </thead>
            <tbody>
              {pooled.evenness.map((pool) => (
                <tr key={`${pool.hand} ${pool.interval_quarters}`}>
                  <td>{pool.hand}</td>
                  <td>{pool.notes}</td>
                  <td>
                    {pool.intervals}
                    {pool.judged ? "" : " (too few to judge)"}
                  </td>
                  <td>{pool.cv_percent.toFixed(1)} %</td>
                  <td>{pool.npvi.toFixed(1)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : null}
        {pooled.rests.entries ? (
          <Table
            title="Rests"
            rows={[
              ["entries after them", String(pooled.rests.entries)],
              ["late (median)", ms(pooled.rests.entry_ms)],
              ["latest", ms(pooled.rests.latest_ms)],
              ["sound running on (median)", ms(pooled.rests.ran_over_ms)],
            ]}
          />
        ) : null}
        {pooled.long_notes.notes ? (
          <Table
            title="Long notes"
            rows={[
              ["how many", String(pooled.long_notes.notes)],
              ["to the next strike, of what is written (median)", percent(pooled.long_notes.to_next_share)],
              ["sounding, of what is written (median)", percent(pooled.long_notes.sounded_share)],
            ]}
          />
        ) : null}
        {checked.touch ? <TouchTable touch={checked.touch} /> : null}
        {checked.joining.length ? (
          <table>
            <caption className="mb-1 text-left font-bold">The cost of joining</caption>
            <thead className="text-left text-quiet">
              <tr>
                {["hand", "what", "alone", "together"].map((head) => (
                  <th key={head} className="pr-3">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {checked.joining.map((one) => (
                <tr key={`${one.hand}${one.what}`}>
                  <td className="pr-3">{one.hand}</td>
                  <td className="pr-3">{JOINED[one.what] ?? one.what}</td>
                  <td className="pr-3">{inUnit(one.alone, one.unit)}</td>
                  <td>{inUnit(one.together, one.unit)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : null}
        {checked.bends.length ? (
          <Table
            title="Written bends"
            rows={checked.bends.map((bend) => [
              `${bend.kind === "slower" ? "rit." : "accel."} in bar ${bend.measure}`,
              `went ${bend.went} (${signed(bend.change_percent)} %)${bend.as_written ? "" : ": not as written"}`,
            ])}
          />
        ) : null}
        {checked.recovery.length ? (
          <Table
            title="After slips"
            rows={checked.recovery.map((one) => [
              `bar ${one.measure}`,
              one.beats === null
                ? "the beat did not come back before the next slip"
                : `back after ${one.beats.toFixed(1)} beats`,
            ])}
          />
        ) : null}
        {checked.ratio_figures.length ? (
          <table>
            <caption className="mb-1 text-left font-bold">Figures as ratios</caption>
            <thead className="text-left text-quiet">
              <tr>
                {["hand", "written", "played", "reads as", "times"].map((head) => (
                  <th key={head} className="pr-3">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {checked.ratio_figures.map((figure) => (
                <tr key={`${figure.hand} ${figure.written} ${figure.length_quarters}`}>
                  <td>{figure.hand}</td>
                  <td className="pr-3">
                    {figure.written} in a {figure.length}
                  </td>
                  <td className="pr-3 whitespace-nowrap">{figure.played.map((part) => part.toFixed(2)).join(":")}</td>
                  <td className="pr-3">{figure.reads_as}</td>
                  <td>
                    {figure.times}
                    {figure.judged ? "" : " (not judged)"}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : null}
        <div className="md:col-span-2">
          <p className="font-bold">Tempo bar by bar</p>
          <p>{tempo.per_measure.map((bar) => `${bar.measure}: ${bar.bpm.toFixed(0)}`).join(" · ") || "–"}</p>
        </div>
        <div className="md:col-span-2">
          <p className="font-bold">Past their limit</p>
          <p>
            {checked.findings
              .map(
                (f) =>
                  `${f.code} ${amount(f)} (limit ${amount({ ...f, amount: f.limit })}, sure ${(100 * f.sure).toFixed(0)} %)`,
              )
              .join("; ") || "nothing"}
          </p>
        </div>
        <div className="md:col-span-2 text-quiet">
          {checked.withheld.length ? (
            <>
              <p className="font-bold">Not told</p>
              <ul className="list-disc pl-5">
                {checked.withheld.map((one) => (
                  <li key={one.what + one.why}>
                    {NOT_TOLD[one.what] ?? one.what.replaceAll("_", " ")}: {one.why}
                  </li>
                ))}
              </ul>
            </>
          ) : null}
          <p className="mt-1">
            Level: {take.level.replace("-", " ")}; checker version {take.checker_version}. Every time is known to about
            ±{checked.notes[0]?.uncertainty_ms ?? "–"} ms.
          </p>
        </div>
      </div>
    </details>
  );
}

const NOT_TOLD: Record<string, string> = {
  click_deviation_ms: "distance from the click",
  "long_notes.sounded": "how long notes sound",
  "long_notes.rushed": "long notes left too soon",
  "rests.ran_over": "holding into rests",
  "evenness.judged": "runs of few notes",
  together: "the hands together",
  balance: "the hands' strengths",
  wrong: "other keys",
  missing: "a hand left out",
  findings: "faults of timing",
};

const JOINED: Record<string, string> = {
  evenness: "unevenness of equal notes",
  "round the beat": "spread round the beat",
  sounded: "long notes sounding",
  strengths: "spread of strengths",
};

function inUnit(value: number, unit: string): string {
  if (unit === "share") return `${(100 * value).toFixed(1)} %`;
  return unit === "ms" ? `${value.toFixed(0)} ms` : value.toFixed(1);
}

const ms = (value: number | null) => (value === null ? "not known" : `${signed(value, 0)} ms`);
const percent = (share: number | null) => (share === null ? "not known" : `${(100 * share).toFixed(0)}\u00a0%`);

const KINDS: Record<string, string> = { short: "written short", slurred: "under slurs", plain: "the others" };

function TouchTable({ touch }: { touch: Schemas["TouchTold"] }) {
  const rows: [string, string][] = [
    ...touch.lengths.map((one): [string, string] => [
      `${one.hand} hand, ${KINDS[one.kind] ?? one.kind}`,
      `sound ${(100 * one.sounded_share).toFixed(0)} % of what is written (${one.notes})`,
    ]),
    ...Object.entries(touch.strengths).map(([hand, velocity]): [string, string] => [
      `${hand} hand, strength`,
      `${velocity.toFixed(0)} of 127`,
    ]),
    ...touch.swells.map((one): [string, string] => [
      `${one.text}, bar ${one.measure}`,
      `${signed(one.change, 0)}${one.as_written ? "" : ": not as written"}, largest step back ${one.step_back.toFixed(0)}`,
    ]),
    [
      "pedal changes",
      touch.pedal.changes
        ? `${touch.pedal.changes}, ${touch.pedal.after_strike_ms?.toFixed(0)} ms after the strike`
        : "none",
    ],
    ["keys smeared", String(touch.smears.length)],
  ];
  return <Table title="Touch" rows={rows} />;
}

function amount(finding: { amount: number; unit: string }): string {
  if (finding.unit === "share") return `${(100 * finding.amount).toFixed(1)} %`;
  if (finding.unit === "ms") return `${finding.amount.toFixed(0)} ms`;
  return String(Math.round(finding.amount));
}

function Table({ title, rows }: { title: string; rows: [string, string][] }) {
  return (
    <table>
      <caption className="mb-1 text-left font-bold">{title}</caption>
      <tbody>
        {rows.map(([name, value]) => (
          <tr key={name}>
            <th scope="row" className="pr-3 text-left font-normal text-quiet">
              {name}
            </th>
            <td>{value}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
