/** Whose recordings may be kept: who agreed, when and for what; and how much sound there is. */
import { useState } from "react";

import { useAddConsent, useConsents, useWithdrawConsent } from "../../api/queries/recordings";
import type { Schemas } from "../../api/client";
import { usePutStudio, useStudents, useStudio } from "../../api/queries/students";
import { Choice } from "../../ui/Choice";
import { Button, Loading, Problem, useToast } from "../../ui/kit";
import { count } from "../../lib/words";

type Studio = Schemas["StudioPublic"];

const NOTHING = { student_id: "", given_by: "", purpose: "lessons with this teacher", given_on: "" };

const FIELDS = [
  ["given_by", "Who agreed", "text"],
  ["purpose", "For what", "text"],
  ["given_on", "When", "date"],
] as const;

export function Recordings() {
  const consents = useConsents();
  const add = useAddConsent();
  const withdraw = useWithdrawConsent();
  const students = useStudents();
  const toast = useToast();
  const [wanted, setWanted] = useState(NOTHING);
  if (consents.error) return <Problem error={consents.error} />;
  if (!consents.data) return <Loading what="Fetching who agreed" />;
  const { items, stored_bytes, most_stored_bytes } = consents.data;
  return (
    <section aria-label="Recordings" className="mb-8 max-w-3xl">
      <h2 className="mb-1 text-xl font-bold">Recordings</h2>
      <p className="mb-3 text-quiet">
        A recording is listened to, and then its sound goes; what was heard in it stays. The sound is kept only where
        somebody agreed to it: the student, or a parent for a child.
      </p>
      <p className="mb-3">
        {stored_bytes
          ? `Sound kept: ${megabytes(stored_bytes)} of at most ${megabytes(most_stored_bytes)}.`
          : "No sound is kept."}
      </p>
      <HowLong />
      {items.length ? (
        <ul className="mb-5 divide-y divide-line border-y border-line">
          {items.map((one) => (
            <li key={one.id} className="flex flex-wrap items-center justify-between gap-3 py-2">
              <span>
                <b>{one.student}</b>: {one.given_by} agreed on {one.given_on}, for {one.purpose}
              </span>
              <Button
                look="quiet"
                disabled={withdraw.isPending}
                onClick={() =>
                  withdraw.mutate(one.id, {
                    onSuccess: ({ dropped }) => {
                      toast(
                        dropped
                          ? `Withdrawn; the sound of ${count(dropped, "take")} is deleted.`
                          : "Withdrawn; no sound had been kept by it.",
                      );
                    },
                  })
                }
              >
                Withdraw
              </Button>
            </li>
          ))}
        </ul>
      ) : null}
      {withdraw.error ? <Problem error={withdraw.error} /> : null}
      <form
        aria-label="Note a consent"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(
            { ...wanted, student_id: Number(wanted.student_id) },
            {
              onSuccess: () => {
                setWanted(NOTHING);
              },
            },
          );
        }}
      >
        <h3 className="mb-2 font-bold">Note that somebody agreed</h3>
        <div className="mb-3 grid gap-3 md:grid-cols-2">
          <label className="block">
            <span className="block text-sm text-quiet">Whose playing</span>
            <select
              required
              className="min-h-10 w-full rounded-lg border border-edge bg-card px-2 pointer-coarse:min-h-11"
              value={wanted.student_id}
              onChange={(event) => setWanted({ ...wanted, student_id: event.target.value })}
            >
              <option value="">choose a student</option>
              {students.data?.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </select>
          </label>
          {FIELDS.map(([name, words, type]) => (
            <label key={name} className="block">
              <span className="block text-sm text-quiet">{words}</span>
              <input
                required
                type={type}
                maxLength={name === "purpose" ? 500 : 120}
                className="min-h-10 w-full rounded-lg border border-edge bg-card px-2 pointer-coarse:min-h-11"
                value={wanted[name]}
                onChange={(event) => {
                  setWanted({ ...wanted, [name]: event.target.value });
                }}
              />
            </label>
          ))}
        </div>
        <Button look="strong" type="submit" disabled={add.isPending}>
          Note it
        </Button>
        {add.error ? <Problem error={add.error} /> : null}
      </form>
    </section>
  );
}

const PERIODS = [
  ["", "until it is deleted"],
  ["14", "for two weeks"],
  ["30", "for 30 days"],
  ["90", "for 90 days"],
  ["365", "for a year"],
] as const;

/** Sound that is kept goes by itself after a while, if the studio wants it. */
function HowLong() {
  const studio = useStudio();
  const put = usePutStudio();
  if (!studio.data) return null;
  const days = String(studio.data.sound_days ?? "");
  const own = PERIODS.some(([key]) => key === days) ? [] : ([[days, `for ${days} days`]] as const);
  return (
    <div className="mb-5 max-w-md">
      <Choice
        label="Sound is kept"
        value={days}
        options={[...PERIODS, ...own]}
        hint="What was heard in it stays."
        onChange={(period) =>
          put.mutate({ ...(studio.data as Studio), sound_days: period === "" ? null : Number(period) })
        }
      />
      {put.error ? <Problem error={put.error} /> : null}
    </div>
  );
}

const megabytes = (bytes: number) =>
  bytes >= 2 ** 30 ? `${(bytes / 2 ** 30).toFixed(1)} GB` : `${Math.max(0.1, bytes / 2 ** 20).toFixed(1)} MB`;
