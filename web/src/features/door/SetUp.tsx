/** The first start: what the studio is called, and who teaches in it. */
import { useState } from "react";

import { useSetUp } from "../../api/queries/me";
import { Button, Problem } from "../../ui/kit";
import { Field, Frame } from "./Frame";
import { OwnComputer } from "./OwnComputer";

export function SetUp({ onBack }: { onBack: (() => void) | null }) {
  const setUp = useSetUp();
  const [studio, setStudio] = useState("");
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [stays, setStays] = useState(true);
  const time_zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return (
    <Frame title="Set up your studio">
      <p className="mb-5 text-quiet">Once, on this machine. Nobody else can open it then.</p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          setUp.mutate({ studio, name, password, time_zone, stays });
        }}
      >
        <Field label="Your studio is called" value={studio} onChange={setStudio} autoComplete="organization" isFirst />
        <Field label="Your name" value={name} onChange={setName} autoComplete="username" />
        <Field
          label="A password"
          hint="Ten characters or more; four or five words of your own are best."
          type="password"
          value={password}
          onChange={setPassword}
          autoComplete="new-password"
        />
        <OwnComputer stays={stays} onChange={setStays} />
        {setUp.error ? <Problem error={setUp.error} /> : null}
        <p className="mt-5 flex flex-wrap items-center gap-5">
          <Button type="submit" look="strong" className="min-h-12" disabled={setUp.isPending}>
            Open the studio
          </Button>
          {onBack ? (
            <Button look="quiet" onClick={onBack}>
              Back
            </Button>
          ) : null}
        </p>
      </form>
    </Frame>
  );
}
