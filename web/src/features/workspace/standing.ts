/** When the screen is covered by what runs: a take and a listening always, the play-along where it stands on the stand. */
import type { DeskView } from "./useDesk";

export const isOnStand = ({ state, isStand }: DeskView): boolean =>
  state.phase === "recording" ||
  state.phase === "between" ||
  state.phase === "listening" ||
  (state.phase === "playing" && isStand);
