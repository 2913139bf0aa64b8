/** The one session of this page, and its keyboards: they go on while views change. */
import { Keyboards } from "../sound/keyboard";
import { Player } from "../sound/player";
import { PracticeSession } from "./practice";

export const player = new Player();
export const session = new PracticeSession(player);
export const keyboards = new Keyboards();
keyboards.listen({
  note: (pitch, velocity, stamp_ms) => session.note(pitch, velocity, stamp_ms),
  release: (pitch, stamp_ms) => session.release(pitch, stamp_ms),
  pedal: (down, stamp_ms) => session.pedal(down, stamp_ms),
});
