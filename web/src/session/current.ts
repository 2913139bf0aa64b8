/** The one session of this page, and its keyboards: they go on while views change. */
import { useSyncExternalStore } from "react";

import { sessionBegun } from "../lib/loading";
import { Keyboards, STAND_IN } from "../sound/keyboard";
import { Player } from "../sound/player";
import { LazyEar } from "./ear";
import { PracticeSession } from "./practice";
import { server } from "./server";
import { FLEETING, type Phase, type Standing, type State, stateFor } from "./state";

export const player = new Player();
export const keyboards = new Keyboards();
export const session = new PracticeSession(
  player,
  server,
  {
    isChosen: () => keyboards.snapshot().chosen === STAND_IN.id,
    send: (data, stamp_ms) => keyboards.standIn(data, stamp_ms),
  },
  new LazyEar(),
);
keyboards.listen({
  note: (pitch, velocity, stamp_ms) => session.note(pitch, velocity, stamp_ms),
  release: (pitch, stamp_ms) => session.release(pitch, stamp_ms),
  pedal: (down, stamp_ms) => session.pedal(down, stamp_ms),
});

/** What the session is at for a piece at this moment, whatever of it is drawn. */
export const phaseNow = (pieceId: number): Phase => stateFor(session.snapshot(), pieceId).phase;

/** All of what the session is at, as a piece's screen shows it: redrawn with every word that is said. */
export function useNow(pieceId: number): State {
  return stateFor(useSyncExternalStore(session.subscribe, session.snapshot), pieceId);
}

let standing: Standing = session.snapshot();

/** The same object until something changes that is not fleeting. */
function standingNow(): Standing {
  const now = session.snapshot();
  const fleeting: readonly string[] = FLEETING;
  const changed = (Object.keys(now) as (keyof State)[]).some(
    (name) => !fleeting.includes(name) && now[name] !== (standing as State)[name],
  );
  if (changed) standing = now;
  return standing;
}

/** What the session is at but for what passes by: a word that is said redraws nothing of it. */
export function useSession(pieceId: number): Standing {
  return stateFor(useSyncExternalStore(session.subscribe, standingNow) as State, pieceId);
}

queueMicrotask(() => sessionBegun.is(true));
