/** A word spoken at once, as the studio's voice says it; on the beat with the click if wanted. */
import { useState } from "react";

import { type System, api, unwrap } from "../../api/client";
import { startMix } from "../../sound/mix";
import { Button, Problem } from "../../ui/kit";
import { player, session } from "../../session/current";

const LOUD = startMix({ click: 0.6, strike: 1, hold: 1, rest: 1, backing: 0, right: 0, left: 0, cue: 1 });

/** Plays a word; what was playing along stops for it. */
export async function sayWord(say: string, system: System | undefined, click: boolean): Promise<void> {
  session.discard();
  await player.wake();
  const schedule = await unwrap(
    api.GET("/api/voice/trial", { params: { query: { say, click, ...(system ? { system } : {}) } } }),
  );
  await player.load(schedule);
  player.start(schedule, { mix: LOUD });
}

export function SayIt({
  say,
  system,
  words = "Hear it",
  click = false,
}: {
  say: string;
  system?: System | undefined;
  words?: string;
  click?: boolean;
}) {
  const [problem, setProblem] = useState<unknown>(null);
  const hear = () => {
    setProblem(null);
    sayWord(say.trim(), system, click).catch(setProblem);
  };
  return (
    <>
      <Button look="quiet" disabled={!say.trim()} aria-label={`${words}: ${say}`} onClick={hear}>
        {words}
      </Button>
      {problem ? <Problem error={problem} /> : null}
    </>
  );
}
