/** The personal links of a student: by one the student, or a parent, comes to that student's own practice and to nothing
 * else. A link is shown once, when it is made. */
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { useLinks, useMakeLink, useAddresses, useRemoveLink } from "../../api/queries/account";
import { useConsents } from "../../api/queries/recordings";
import { timeOf } from "../../lib/words";
import { Button, Problem, useToast } from "../../ui/kit";

type Link = Schemas["LinkPublic"];
/** Whose link it is: the student's, or a parent's, called as the consents call them. */
type Whose = { role: "student" | "parent"; held_by: string };
type Made = Schemas["LinkMade"] & Whose & { pin: string };

const whoseWords = ({ role, held_by }: Pick<Link, "role" | "held_by">) =>
  role === "student" ? "For the student" : `For ${held_by || "a parent"}`;

export function Links({ student, name }: { student: number; name: string }) {
  const links = useLinks(student);
  const make = useMakeLink(student);
  const reach = useAddresses();
  const remove = useRemoveLink(student);
  const consents = useConsents();
  const toast = useToast();
  const [pin, setPin] = useState("");
  const [parent, setParent] = useState("");
  const [made, setMade] = useState<Made | null>(null);
  const onMake = (whose: Whose) =>
    make.mutate(
      { ...whose, origin: originFor(reach.data), ...(pin ? { pin } : {}) },
      {
        onSuccess: (link) => {
          setMade({ ...link, ...whose, pin });
          setPin("");
          setParent("");
        },
      },
    );
  const own = links.data?.find((one) => one.role === "student");
  const parents = links.data?.filter((one) => one.role === "parent") ?? [];
  const agreed = new Set(consents.data?.items.filter((one) => one.student_id === student).map((one) => one.given_by));
  const takeBack = (link: Link) =>
    remove.mutate(link.id, {
      onSuccess: () => {
        setMade((old) => (old?.role === link.role && old.held_by === link.held_by ? null : old));
        toast("The link opens nothing any more.");
      },
    });
  const row = (link: Link) => (
    <li key={link.id} className="flex flex-wrap items-center gap-x-5 gap-y-1 py-2">
      <b className="w-36 break-words">{whoseWords(link)}</b>
      <span className="min-w-40 flex-1 text-quiet">
        {[
          `a link of ${timeOf(link.created_at)}`,
          link.opened_at ? `opened last ${timeOf(link.opened_at)}` : "not opened yet",
          ...(link.has_pin ? ["with a PIN"] : []),
          // Named otherwise than in the consent, a parent would be shut out and nobody told.
          ...(link.role === "parent" && !link.has_agreed ? ["named in no consent: hears no kept sound"] : []),
        ].join(", ")}
      </span>
      <Button
        disabled={make.isPending}
        onClick={() => onMake({ role: link.role === "parent" ? "parent" : "student", held_by: link.held_by })}
      >
        A new link
      </Button>
      <Button look="quiet" disabled={remove.isPending} onClick={() => takeBack(link)}>
        Take it back
      </Button>
    </li>
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
        {own ? (
          row(own)
        ) : (
          <li className="flex flex-wrap items-center gap-x-5 gap-y-1 py-2">
            <b className="w-36">For the student</b>
            <span className="min-w-40 flex-1 text-quiet">no link</span>
            <Button disabled={make.isPending} onClick={() => onMake({ role: "student", held_by: "" })}>
              Make a link
            </Button>
          </li>
        )}
        {parents.map(row)}
        <li className="py-2">
          <form
            className="flex flex-wrap items-center gap-x-5 gap-y-1"
            onSubmit={(event) => {
              event.preventDefault();
              onMake({ role: "parent", held_by: parent.trim() });
            }}
          >
            <label className="flex min-w-40 flex-1 flex-wrap items-center gap-x-5 gap-y-1">
              <b className="w-36">For a parent</b>
              <input
                value={parent}
                maxLength={120}
                list="who-agreed"
                autoComplete="off"
                placeholder="her mother"
                onChange={(event) => setParent(event.target.value)}
                className="min-h-10 min-w-40 flex-1 rounded-lg border border-edge bg-card px-3"
              />
            </label>
            <datalist id="who-agreed">
              {[...agreed].map((one) => (
                <option key={one} value={one} />
              ))}
            </datalist>
            <Button type="submit" disabled={make.isPending}>
              Make a link
            </Button>
          </form>
          <p className="mt-1 text-sm text-quiet">
            Named as in the consent: a parent hears only the sound that this parent agreed to.
          </p>
        </li>
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
          <b>{made.role === "student" ? `For ${name}` : whoseWords(made)}</b>, shown this once. A new link ends it.
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
