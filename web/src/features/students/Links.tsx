/** The personal links of a student: by one the student, or a parent, comes to that student's own practice and to nothing
 * else. A link is shown once, when it is made. */
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { useLinks, useMakeLink, useAddresses, useRemoveLink } from "../../api/queries/account";
import { timeOf } from "../../lib/words";
import { Button, Problem, useToast } from "../../ui/kit";

type Role = "student" | "parent";
type Made = Schemas["LinkMade"] & { role: Role; pin: string };

const ROLES = [
  ["student", "For the student"],
  ["parent", "For a parent"],
] as const;

export function Links({ student, name }: { student: number; name: string }) {
  const links = useLinks(student);
  const make = useMakeLink(student);
  const reach = useAddresses();
  const remove = useRemoveLink(student);
  const toast = useToast();
  const [pin, setPin] = useState("");
  const [made, setMade] = useState<Made | null>(null);
  const onMake = (role: Role) =>
    make.mutate(
      { role, origin: originFor(reach.data), ...(pin ? { pin } : {}) },
      {
        onSuccess: (link) => {
          setMade({ ...link, role, pin });
          setPin("");
        },
      },
    );
  return (
    <section aria-labelledby="links" className="mt-8 max-w-3xl">
      <h2 id="links" className="text-lg font-bold">
        Practising at home
      </h2>
      <p className="mb-3 text-quiet">
        A personal link opens {name}’s own practice on a phone, and nothing else. No password, no e-mail.
      </p>
      <ul className="divide-y divide-line border-y border-line">
        {ROLES.map(([role, words]) => {
          const link = links.data?.find((one) => one.role === role);
          return (
            <li key={role} className="flex flex-wrap items-center gap-x-5 gap-y-1 py-2">
              <b className="w-36">{words}</b>
              <span className="min-w-40 flex-1 text-quiet">
                {link
                  ? [
                      `a link of ${timeOf(link.created_at)}`,
                      link.opened_at ? `opened last ${timeOf(link.opened_at)}` : "not opened yet",
                      ...(link.has_pin ? ["with a PIN"] : []),
                    ].join(", ")
                  : "no link"}
              </span>
              <Button disabled={make.isPending} onClick={() => onMake(role)}>
                {link ? "A new link" : "Make a link"}
              </Button>
              {link ? (
                <Button
                  look="quiet"
                  disabled={remove.isPending}
                  onClick={() =>
                    remove.mutate(role, {
                      onSuccess: () => {
                        setMade((old) => (old?.role === role ? null : old));
                        toast("The link opens nothing any more.");
                      },
                    })
                  }
                >
                  Take it back
                </Button>
              ) : null}
            </li>
          );
        })}
      </ul>
      <label className="mt-3 flex flex-wrap items-center gap-x-3 gap-y-1">
        <span>A PIN to be asked for, if you like</span>
        <input
          value={pin}
          inputMode="numeric"
          pattern="[0-9]{4,8}"
          maxLength={8}
          placeholder="none"
          autoComplete="off"
          onChange={(event) => setPin(event.target.value.replace(/\D/g, ""))}
          className="min-h-10 w-32 rounded-lg border border-edge bg-card px-3"
        />
        <span className="text-sm text-quiet">4 to 8 digits; it holds for the next link you make</span>
      </label>
      {[links, make, remove].map(({ error }, index) => (error ? <Problem key={index} error={error} /> : null))}
      {made ? <Shown made={made} name={name} install={reach.data?.install?.address ?? null} /> : null}
    </section>
  );
}

/** This computer's own address is of no use to a phone: where the server has another, it is that one. */
const OWN = new Set(["127.0.0.1", "localhost", "[::1]"]);
const originFor = (reach: Schemas["AddressesPublic"] | undefined) =>
  OWN.has(location.hostname) ? (reach?.addresses[0]?.address ?? location.origin) : location.origin;

/** As a picture for a phone, as an address to be sent, as words to be read out. */
function Shown({ made, name, install }: { made: Made; name: string; install: string | null }) {
  const toast = useToast();
  const { hostname, origin } = new URL(made.address);
  const copy = () =>
    navigator.clipboard.writeText(made.address).then(
      () => toast("The link is copied."),
      () => toast("It could not be copied. Select it and copy it by hand."),
    );
  return (
    <div role="status" className="mt-5 flex flex-wrap gap-5 rounded-lg border-2 border-ink bg-card p-4">
      <img
        alt="The link as a picture for a phone"
        className="size-52"
        src={`data:image/svg+xml,${encodeURIComponent(made.picture)}`}
      />
      <div className="min-w-64 flex-1">
        <p>
          <b>{made.role === "parent" ? `For ${name}’s parent` : `For ${name}`}</b>, shown this once. A new link ends it.
          {made.pin ? ` The PIN is ${made.pin}.` : ""}
        </p>
        <p className="mt-2 text-lg break-all">{made.address}</p>
        <p className="mt-2">
          <Button onClick={() => void copy()}>Copy the link</Button>
        </p>
        <p className="mt-2 text-sm text-quiet">
          Or open {origin}/come and type: <b>{made.token.replaceAll("-", " ")}</b>
        </p>
        {OWN.has(hostname) ? (
          <p className="mt-2 text-sm text-warn">
            This address is this computer’s own: a phone cannot reach it. On this computer the link works. How phones
            come in stands in Settings, The studio.
          </p>
        ) : install ? (
          <p className="mt-2 text-sm">
            Before the first time on a phone: open <b>{install}</b> on it, so that it may use the microphone.
          </p>
        ) : null}
      </div>
    </div>
  );
}
