/** What a take is judged by, level by level: the usual limits, and the studio's own where it sets them. */
import { useState } from "react";

import type { Schemas, StudioChoices } from "../../api/client";
import { useLimits } from "../../api/queries/studio";
import { levels } from "../../api/trade";
import { Button, Loading, Problem } from "../../ui/kit";

type Limit = Schemas["LimitPublic"];
type Level = Schemas["Level"];

export function Limits({
  stored,
  isBusy,
  onChange,
}: {
  stored: StudioChoices;
  isBusy: boolean;
  onChange: (limits: StudioChoices["limits"] & object) => Promise<unknown>;
}) {
  const limits = useLimits();
  if (limits.error) return <Problem error={limits.error} />;
  if (!limits.data) return <Loading what="Fetching the limits" />;
  const own = stored.limits ?? {};
  const set = (level: Level, name: string, value: number | null) => {
    const others = Object.entries(own[level] ?? {}).filter(([one]) => one !== name);
    const row = Object.fromEntries(value === null ? others : [...others, [name, value]]);
    const kept = Object.entries({ ...own, [level]: row }).filter(([, values]) => Object.keys(values).length);
    return onChange(Object.fromEntries(kept));
  };
  return (
    <section aria-label="Limits" className="mb-8">
      <h2 className="mb-1 text-xl font-bold">Levels and limits</h2>
      <p className="mb-3 text-quiet">
        From where on a fault is named. They hold for takes made from now on, and for takes you judge again.
      </p>
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Limits by level">
        <table className="w-full text-left">
          <thead>
            <tr className="align-bottom">
              <th scope="col" className="py-1 pr-3 text-sm font-normal text-quiet">
                A fault is named beyond
              </th>
              {levels().map(([level, words]) => (
                <th key={level} scope="col" className="px-1 py-1 first-letter:uppercase">
                  {words}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {limits.data.map((limit) => (
              <tr key={limit.name} className="border-t border-line">
                <th scope="row" className="py-1 pr-3 font-normal">
                  {limit.words} <span className="text-quiet">({limit.unit})</span>
                </th>
                {levels().map(([level, words]) => (
                  <td key={level} className="px-1 py-1">
                    <Field
                      key={own[level]?.[limit.name] ?? "usual"}
                      limit={limit}
                      label={`${limit.words}, ${words}`}
                      usual={limit.usual[level] ?? 0}
                      own={own[level]?.[limit.name] ?? null}
                      isBusy={isBusy}
                      onSave={(value) => set(level, limit.name, value)}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {Object.keys(own).length ? (
        <Button
          look="quiet"
          className="mt-2"
          disabled={isBusy}
          onClick={() => void onChange({}).catch(() => undefined)}
        >
          Back to the usual limits
        </Button>
      ) : null}
    </section>
  );
}

/** A limit as it is typed: shares in per cent. */
const toShown = (limit: Limit, value: number) => (limit.unit === "%" ? Math.round(value * 1000) / 10 : value);
const toStored = (limit: Limit, shown: number) => (limit.unit === "%" ? shown / 100 : shown);

function Field({
  limit,
  label,
  usual,
  own,
  isBusy,
  onSave,
}: {
  limit: Limit;
  label: string;
  usual: number;
  own: number | null;
  isBusy: boolean;
  onSave: (value: number | null) => Promise<unknown>;
}) {
  const [text, setText] = useState<string | null>(null);
  const now = toShown(limit, own ?? usual);
  const given = Number((text ?? String(now)).replace(",", "."));
  const [low, high] = [toShown(limit, limit.low), toShown(limit, limit.high)];
  const fits = text === null || (text.trim() !== "" && given >= low && given <= high);
  const save = () => {
    if (text === null || !fits || isBusy) return;
    if (given === now) setText(null);
    else
      onSave(given === toShown(limit, usual) ? null : toStored(limit, given)).then(
        () => setText(null),
        () => undefined,
      ); // what could not be stored stays typed
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <input
        aria-label={`${label} (${limit.unit})`}
        inputMode="decimal"
        value={text ?? String(now)}
        aria-invalid={!fits}
        onChange={(event) => setText(event.target.value)}
        onBlur={save}
        onKeyDown={(event) => {
          if (event.key === "Escape") setText(null);
        }}
        className={[
          "w-20 rounded-lg border bg-card px-2 py-1",
          fits ? (own === null ? "border-edge" : "border-ink font-bold") : "border-warn",
        ].join(" ")}
      />
      {fits ? null : (
        <span role="status" className="block text-sm text-warn">
          {low} to {high}
        </span>
      )}
    </form>
  );
}
