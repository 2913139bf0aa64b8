/** Who is not signed in stands here: the demo with one press, the first set-up, the way in, a personal link. */
import { useState } from "react";
import { useLocation } from "react-router";

import { useDemo } from "../../api/queries/me";
import type { Me } from "../../api/me";
import { Button, Problem } from "../../ui/kit";
import { ComeIn } from "./ComeIn";
import { Frame } from "./Frame";
import { SetUp } from "./SetUp";
import { SignIn } from "./SignIn";

export function Door({ me }: { me: Me }) {
  const demo = useDemo();
  const [isSettingUp, setSettingUp] = useState(false);
  const { pathname } = useLocation();
  if (pathname === "/come") return <ComeIn />;
  if (me.is_set_up) return <SignIn />;
  if (!me.has_demo || isSettingUp) return <SetUp onBack={me.has_demo ? () => setSettingUp(false) : null} />;
  return (
    <Frame title="Look around first">
      <p className="mb-5 text-lg">
        This is the demo: a studio with five students, their pieces, and three weeks of practice. Everything in it is
        invented; change what you like.
      </p>
      {demo.error ? <Problem error={demo.error} /> : null}
      <Button
        look="strong"
        className="min-h-16 w-full text-2xl"
        disabled={demo.isPending}
        onClick={() => demo.mutate(undefined)}
      >
        Open the demo
      </Button>
      <p className="mt-8">
        Or{" "}
        <button type="button" className="min-h-11 font-bold underline" onClick={() => setSettingUp(true)}>
          set up a studio of your own
        </button>{" "}
        with a password. The demo’s pieces and students stay in it until you remove them.
      </p>
    </Frame>
  );
}
