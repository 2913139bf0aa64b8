/** The one session of this page, and its keyboards: they go on while views change. */
import { useSyncExternalStore } from "react";

import { Keyboards, STAND_IN } from "../sound/keyboard";
import { Player } from "../sound/player";
import { PracticeSession } from "./practice";
import { server } from "./server";
import { type State, stateFor } from "./state";

export const player = new Player();
export const keyboards = new Keyboards();
export const session = new PracticeSession(player, server, {
  isChosen: () => keyboards.snapshot().chosen === STAND_IN.id,
  send: (data, stamp_ms) => keyboards.standIn(data, stamp_ms),
});
keyboards.listen({
  note: (pitch, velocity, stamp_ms) => session.note(pitch, velocity, stamp_ms),
  release: (pitch, stamp_ms) => session.release(pitch, stamp_ms),
  pedal: (down, stamp_ms) => session.pedal(down, stamp_ms),
});

/** What the session is at, as a piece's screen shows it. */
export function useSession(pieceId: number): State {
  return stateFor(useSyncExternalStore(session.subscribe, session.snapshot), pieceId);
}
