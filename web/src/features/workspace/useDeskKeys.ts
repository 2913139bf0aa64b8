/** The keys of a piece's ladder and play-along, and what they do. */
import { OVER_AND_OVER } from "../../session/choice";
import { phaseNow, session } from "../../session/current";
import { tapped } from "../../session/tapTempo";
import type { Cure } from "../practice/Outcome";
import { CHANNELS } from "../../sound/mix";
import type { DeskView } from "./useDesk";
import { useKeys } from "../../ui/useKeys";

type Keys = { enabled: boolean; onLadder: boolean; onCure: (cure: Cure) => void };

export function useDeskKeys(desk: DeskView, { enabled, onLadder, onCure }: Keys): void {
  const { state, canChoose, play, setPlay } = desk;
  // As the session is when the key comes, not as it was last drawn: a busy device draws late.
  const isIdle = () => phaseNow(desk.piece.id) === "idle";
  useKeys({
    enabled,
    onSpace: () => (session.isBusyWith(desk.piece.id) ? session.stop() : session.play()),
    onRecord: () => {
      if (isIdle() && onLadder && (desk.rung === null || desk.rung.activity !== null)) session.record(desk.rounds);
    },
    onTap: (hand, stamp) => {
      if (phaseNow(desk.piece.id) === "listening") return session.slip(stamp);
      session.tap(hand, stamp);
      desk.ruler.current?.light(hand);
    },
    onArrow: (by) => {
      if (canChoose) desk.movePassage(by);
    },
    onEscape: () => (isIdle() ? desk.clearPassage() : session.discard()),
    onTempo: (by) => {
      if (canChoose) desk.stepTempo(by);
    },
    onKey: (key, stamp) => {
      const channel = CHANNELS[Number(key) - 1];
      if (channel) setPlay({ mix: { ...play.mix, muted: { ...play.mix.muted, [channel]: !play.mix.muted[channel] } } });
      else if (key === "n" && isIdle() && onLadder) session.listen();
      else if (key === "g" && isIdle() && onLadder) session.guide();
      else if (key === "c" && isIdle() && onLadder && state.take?.verdict?.cure) onCure(state.take.verdict.cure);
      else if (key === "t") tapped(desk.tapTempo, stamp, desk.setBpm);
      else if (key === "s") desk.setStand(!desk.isStand);
      else if (key === "l") setPlay({ rounds: play.rounds > 1 ? 1 : OVER_AND_OVER });
      else return false;
      return true;
    },
  });
}
