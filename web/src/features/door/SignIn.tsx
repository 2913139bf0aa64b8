/** A teacher signs in: name and password, the code of a second factor where one is on; or by the recovery code. */
import { useState } from "react";

import { ApiError } from "../../api/client";
import { useRecover, useSignIn } from "../../api/queries/me";
import { Button, Problem } from "../../ui/kit";
import { Field, Frame } from "./Frame";
import { OwnComputer } from "./OwnComputer";

/** Asked for once the password was right. */
const isCodeAsked = (error: unknown) => error instanceof ApiError && error.where === "code";

export function SignIn() {
  const signIn = useSignIn();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [stays, setStays] = useState(false);
  const [isLost, setLost] = useState(false);
  const asksCode = code !== "" || isCodeAsked(signIn.error);
  if (isLost) return <Recover name={name} onBack={() => setLost(false)} />;
  return (
    <Frame title="Sign in">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          signIn.mutate({ name, password, code, stays });
        }}
      >
        <Field label="Your name" value={name} onChange={setName} autoComplete="username" isFirst />
        <Field
          label="Password"
          type="password"
          value={password}
          onChange={setPassword}
          autoComplete="current-password"
        />
        {asksCode ? (
          <Field
            label="The six digits of your second factor"
            value={code}
            onChange={setCode}
            autoComplete="one-time-code"
            isNumber
            isOptional
          />
        ) : null}
        <OwnComputer stays={stays} onChange={setStays} />
        {signIn.error && !(isCodeAsked(signIn.error) && code === "") ? <Problem error={signIn.error} /> : null}
        <p className="mt-5 flex flex-wrap items-center gap-5">
          <Button type="submit" look="strong" className="min-h-12" disabled={signIn.isPending}>
            Sign in
          </Button>
          <Button look="quiet" onClick={() => setLost(true)}>
            I have lost my password
          </Button>
        </p>
      </form>
      <p className="mt-8 text-quiet">A student or a parent? Open the link that your teacher gave you.</p>
    </Frame>
  );
}

function Recover({ name: given, onBack }: { name: string; onBack: () => void }) {
  const recover = useRecover();
  const [name, setName] = useState(given);
  const [code, setCode] = useState("");
  const [password, setPassword] = useState("");
  return (
    <Frame title="A new password">
      <p className="mb-5 text-quiet">
        With the recovery code that you wrote down (Settings, Your account). It is used up by it, and a second factor is
        off then. Whoever is signed in elsewhere as you is signed out.
      </p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          recover.mutate({ name, recovery_code: code, password });
        }}
      >
        <Field label="Your name" value={name} onChange={setName} autoComplete="username" isFirst />
        <Field label="Recovery code" hint="Eight words" value={code} onChange={setCode} autoComplete="off" />
        <Field
          label="New password"
          hint="Ten characters or more"
          type="password"
          value={password}
          onChange={setPassword}
          autoComplete="new-password"
        />
        {recover.error ? <Problem error={recover.error} /> : null}
        <p className="mt-5 flex flex-wrap items-center gap-5">
          <Button type="submit" look="strong" className="min-h-12" disabled={recover.isPending}>
            Use it from now on
          </Button>
          <Button look="quiet" onClick={onBack}>
            Back
          </Button>
        </p>
      </form>
      <p className="mt-8 text-sm text-quiet">
        Without the code, whoever runs the machine can make a new one: <code>./laptick teacher NAME</code>.
      </p>
    </Frame>
  );
}
