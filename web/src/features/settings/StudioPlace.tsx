/** What the studio is called, and where its days are: by them tries a day and days of practice are counted. */
import { useState } from "react";

import { usePutStudio, useStudio } from "../../api/queries/students";
import { Button, Loading, Problem } from "../../ui/kit";

/** The names of time zones that this browser knows. */
const zones = (): readonly string[] => Intl.supportedValuesOf("timeZone");
const here = (): string => Intl.DateTimeFormat().resolvedOptions().timeZone;

const FIELD = "min-h-10 min-w-0 flex-1 rounded-lg border border-edge bg-card px-3";

export function StudioPlace() {
  const studio = useStudio();
  if (studio.error) return <Problem error={studio.error} />;
  if (!studio.data) return <Loading what="Fetching what the studio is called" />;
  const { name, time_zone = "" } = studio.data;
  return <Facts key={`${name} ${time_zone}`} name={name} zone={time_zone} />;
}

function Facts({ name, zone }: { name: string; zone: string }) {
  const put = usePutStudio();
  const [named, setNamed] = useState(name);
  const [placed, setPlaced] = useState(zone);
  const isChanged = named !== name || placed !== zone;
  return (
    <section aria-label="The studio" className="max-w-2xl">
      <h2 className="mb-2 text-lg font-bold">The studio</h2>
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          put.mutate({ name: named, time_zone: placed });
        }}
      >
        <label className="flex flex-wrap items-center gap-x-2 gap-y-1">
          <span className="min-w-36 text-quiet">It is called</span>
          <input value={named} maxLength={200} required className={FIELD} onChange={(e) => setNamed(e.target.value)} />
        </label>
        <label className="flex flex-wrap items-center gap-x-2 gap-y-1">
          <span className="min-w-36 text-quiet">Its days are those of</span>
          <select value={placed} className={FIELD} onChange={(event) => setPlaced(event.target.value)}>
            <option value="">the machine it runs on</option>
            {[...new Set([...zones(), ...(placed ? [placed] : [])])].map((one) => (
              <option key={one} value={one}>
                {one.replaceAll("_", " ")}
              </option>
            ))}
          </select>
        </label>
        <p className="text-sm text-quiet">
          A day begins at midnight there: by it the tries of a day and the days of practice are counted. This browser is
          in {here().replaceAll("_", " ")}.
        </p>
        {put.error ? <Problem error={put.error} /> : null}
        <p>
          <Button type="submit" look="strong" disabled={!isChanged || put.isPending || !named.trim()}>
            Keep
          </Button>
        </p>
      </form>
    </section>
  );
}
