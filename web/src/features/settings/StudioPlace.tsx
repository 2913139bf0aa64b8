/** What the studio is called, and where its days are: by them tries a day and days of practice are counted. */
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { useAddresses } from "../../api/queries/account";
import { usePutStudio, useStudio } from "../../api/queries/students";
import { Button, Loading, Problem } from "../../ui/kit";
import { Copies } from "./Copies";

/** The names of time zones that this browser knows. */
const zones = (): readonly string[] => Intl.supportedValuesOf("timeZone");
const here = (): string => Intl.DateTimeFormat().resolvedOptions().timeZone;

const FIELD = "min-h-10 min-w-0 flex-1 rounded-lg border border-edge bg-card px-3";

export function StudioPlace() {
  const studio = useStudio();
  if (studio.error) return <Problem error={studio.error} />;
  if (!studio.data) return <Loading what="Fetching what the studio is called" />;
  const { name, time_zone = "", sound_days = null } = studio.data;
  return (
    <>
      <Facts key={`${name} ${time_zone}`} name={name} zone={time_zone} days={sound_days} />
      <FromPhones />
      <Copies />
    </>
  );
}

const TRUSTING = [
  "It learns to trust the studio there. Without that everything works but the microphone, the screen that stays on,",
  "and a keyboard on its cable; a recording made by the phone’s own recorder can be sent all the same.",
].join(" ");

/** By what addresses phones come in, and what they need for it. */
function FromPhones() {
  const reach = useAddresses();
  if (reach.error) return <Problem error={reach.error} />;
  if (!reach.data) return null;
  const { addresses, install, fingerprint } = reach.data;
  return (
    <section aria-label="From a phone" className="mt-8 max-w-3xl">
      <h2 className="mb-2 text-lg font-bold">From a phone</h2>
      {addresses.length === 0 ? (
        <p>
          Only this computer reaches the studio. To let the phones of the house in, start it with{" "}
          <code className="whitespace-nowrap">./laptick serve --host 0.0.0.0</code>. Until then students practise on
          this computer, by their links.
        </p>
      ) : (
        <div className="grid gap-5 md:grid-cols-2">
          {install ? <Address title="First, once on each phone" shown={install} words={TRUSTING} /> : null}
          <Address title="Then" shown={addresses[0]} words="Where students’ links lead." />
        </div>
      )}
      {fingerprint ? (
        <p className="mt-3 text-sm text-quiet">
          What a phone trusts then is known by <span className="break-all">{fingerprint}</span>
        </p>
      ) : null}
    </section>
  );
}

type AddressProps = { title: string; shown: Schemas["AddressPublic"] | undefined; words: string };

function Address({ title, shown, words }: AddressProps) {
  if (!shown) return null;
  return (
    <div>
      <h3 className="font-bold">{title}</h3>
      <img
        alt={`${shown.address} as a picture for a phone`}
        className="my-2 size-44"
        src={`data:image/svg+xml,${encodeURIComponent(shown.picture)}`}
      />
      <p className="text-lg break-all">{shown.address}</p>
      <p className="text-sm text-quiet">{words}</p>
    </div>
  );
}

function Facts({ name, zone, days }: { name: string; zone: string; days: number | null }) {
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
          put.mutate({ name: named, time_zone: placed, sound_days: days });
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
