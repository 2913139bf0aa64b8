/** The teacher's own account: her password, what lets her in without it, a second factor, where she is signed in. */
import { type ReactNode, useState } from "react";

import type { Schemas } from "../../api/client";
import {
  useAccount,
  useChangePassword,
  useEndSession,
  useOfferSecondFactor,
  useRecoveryCode,
  useSecondFactor,
} from "../../api/queries/account";
import { useSignOut } from "../../api/queries/me";
import { timeOf } from "../../lib/words";
import { Button, Loading, Problem, useToast } from "../../ui/kit";

type Shown = Schemas["AccountPublic"];

export function Account() {
  const account = useAccount();
  const signOut = useSignOut();
  if (account.error) return <Problem error={account.error} />;
  if (!account.data) return <Loading what="Fetching your account" />;
  return (
    <div className="grid max-w-3xl gap-8">
      <p className="flex flex-wrap items-center gap-5">
        <span>
          Signed in as <b>{account.data.name}</b>
        </span>
        <Button disabled={signOut.isPending} onClick={() => signOut.mutate()}>
          Sign out
        </Button>
      </p>
      {signOut.error ? <Problem error={signOut.error} /> : null}
      {account.data.is_demo ? (
        <p className="text-quiet">
          The demo’s teacher has no password. Sign out to set up a studio of your own with one.
        </p>
      ) : (
        <>
          <Password />
          <Recovery has={account.data.has_recovery} />
          <SecondFactor isOn={account.data.code_asked} />
        </>
      )}
      <Sessions shown={account.data} />
    </div>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h2 className="mb-1 text-lg font-bold">{title}</h2>
      {children}
    </section>
  );
}

type FieldProps = { label: string; value: string; onChange: (value: string) => void; autoComplete: string };

function Secret({ label, value, onChange, autoComplete }: FieldProps) {
  return (
    <label className="flex flex-wrap items-center gap-x-2 gap-y-1">
      <span className="min-w-36 text-quiet">{label}</span>
      <input
        required
        type={autoComplete === "one-time-code" ? "text" : "password"}
        value={value}
        maxLength={200}
        autoComplete={autoComplete}
        onChange={(event) => onChange(event.target.value)}
        className="min-h-10 min-w-0 flex-1 rounded-lg border border-edge bg-card px-3"
      />
    </label>
  );
}

function Password() {
  const change = useChangePassword();
  const toast = useToast();
  const [before, setBefore] = useState("");
  const [after, setAfter] = useState("");
  return (
    <Part title="Password">
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate(
            { before, after },
            {
              onSuccess: () => {
                setBefore("");
                setAfter("");
                toast("Your password is another one now; you are signed out everywhere else.");
              },
            },
          );
        }}
      >
        <Secret label="As it is" value={before} onChange={setBefore} autoComplete="current-password" />
        <Secret label="The new one" value={after} onChange={setAfter} autoComplete="new-password" />
        {change.error ? <Problem error={change.error} /> : null}
        <p>
          <Button type="submit" disabled={change.isPending || !before || !after}>
            Change it
          </Button>
        </p>
      </form>
    </Part>
  );
}

function Recovery({ has }: { has: boolean }) {
  const make = useRecoveryCode();
  const [password, setPassword] = useState("");
  return (
    <Part title="Recovery code">
      <p className="mb-3 text-quiet">
        Lets you in once if you lose your password. Write it down and keep it where you keep papers.{" "}
        {has ? "You have one; a new one ends it." : "You have none."}
      </p>
      {make.data ? (
        <p role="status" className="mb-3 rounded-lg border-2 border-ink bg-card p-3">
          <span className="block text-sm text-quiet">Shown this once:</span>
          <b className="text-xl">{make.data.code.replaceAll("-", " ")}</b>
        </p>
      ) : null}
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate(password, { onSuccess: () => setPassword("") });
        }}
      >
        <Secret label="Your password" value={password} onChange={setPassword} autoComplete="current-password" />
        {make.error ? <Problem error={make.error} /> : null}
        <p>
          <Button type="submit" disabled={make.isPending || !password}>
            {has ? "Make a new one" : "Make one"}
          </Button>
        </p>
      </form>
    </Part>
  );
}

function SecondFactor({ isOn }: { isOn: boolean }) {
  const offer = useOfferSecondFactor();
  const put = useSecondFactor();
  const toast = useToast();
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const done = (words: string) => ({
    onSuccess: () => {
      setPassword("");
      setCode("");
      offer.reset();
      toast(words);
    },
  });
  const ask = () => {
    if (isOn) put.mutate({ password, secret: null, code: "" }, done("The second factor is off."));
    else if (!offer.data) offer.mutate(password);
    else
      put.mutate(
        { password, secret: offer.data.secret, code },
        done("The second factor is on: its digits are asked for when you sign in."),
      );
  };
  const words = isOn ? "Turn it off" : offer.data ? "Turn it on" : "Set it up";
  return (
    <Part title="Second factor">
      <p className="mb-3 text-quiet">
        {isOn
          ? "It is on: beside the password, six digits of your phone are asked for."
          : "Beside the password, six digits that a program on your phone shows. Not needed on a computer that only you use."}
      </p>
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          ask();
        }}
      >
        {offer.data ? (
          <>
            <div className="flex flex-wrap items-center gap-5">
              <img
                alt="The secret as a picture for the phone"
                className="size-44"
                src={`data:image/svg+xml,${encodeURIComponent(offer.data.picture)}`}
              />
              <p className="min-w-0 flex-1">
                Let the program on your phone read this picture, or type into it: <br />
                <b className="break-all">{offer.data.secret.replace(/(.{4})/g, "$1 ")}</b>
              </p>
            </div>
            <Secret label="The six digits" value={code} onChange={setCode} autoComplete="one-time-code" />
          </>
        ) : (
          <Secret label="Your password" value={password} onChange={setPassword} autoComplete="current-password" />
        )}
        {offer.error ? <Problem error={offer.error} /> : null}
        {put.error ? <Problem error={put.error} /> : null}
        <p>
          <Button type="submit" disabled={offer.isPending || put.isPending || !password}>
            {words}
          </Button>
        </p>
      </form>
    </Part>
  );
}

/** A browser as it calls itself, in the two or three words of it that tell one from another. */
function deviceWords(device: string): string {
  const on = ["iPhone", "iPad", "Android", "Windows", "Macintosh", "CrOS", "Linux"].find((one) => device.includes(one));
  const by = ["Edg", "Firefox", "Chrome", "Safari"].find((one) => device.includes(one));
  return [by === "Edg" ? "Edge" : by, on].filter(Boolean).join(" on ") || "an unknown program";
}

function Sessions({ shown }: { shown: Shown }) {
  const end = useEndSession();
  return (
    <Part title="Where you are signed in">
      <ul className="divide-y divide-line border-y border-line">
        {shown.sessions.map((one) => (
          <li key={one.id} className="flex flex-wrap items-center justify-between gap-3 py-2">
            <span>
              <b>{deviceWords(one.device)}</b>, last {timeOf(one.seen_at)}
            </span>
            {one.is_this ? (
              <span className="text-quiet">here</span>
            ) : (
              <Button look="quiet" disabled={end.isPending} onClick={() => end.mutate(one.id)}>
                Sign out there
              </Button>
            )}
          </li>
        ))}
      </ul>
      {end.error ? <Problem error={end.error} /> : null}
    </Part>
  );
}
