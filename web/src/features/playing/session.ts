/** The one session of this page: it goes on while views change. */
import { Player } from "../../sound/player";
import { PracticeSession } from "../workspace/session";

export const player = new Player();
export const session = new PracticeSession(player);
