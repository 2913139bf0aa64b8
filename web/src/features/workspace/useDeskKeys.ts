/** The keys of a piece's ladder and play-along, and what they do. */
import { OVER_AND_OVER } from "../../session/choice";
import { session } from "../../session/current";
import { tapped } from "../../session/tapTempo";
import type { Cure } from "../practice/Outcome";
import { CHANNELS } from "../../sound/mix";
import type { DeskView } from "./useDesk";
import { useKeys } from "../../ui/useKeys";

type Keys = { enabled: boolean; onLadder: boolean; onCure: (cure: Cure) => void };

export function useDeskKeys(desk: DeskView, { enabled, onLadder, onCure }: Keys): void {
  const { state, idle, canChoose, play, setPlay } = desk;
  useKeys({
    enabled,
    onSpace: () => (idle ? session.play() : session.stop()),
    onRecord: () => {
      if (idle && onLadder && (desk.rung === null || desk.rung.activity !== null)) session.record(desk.rounds);
    },
    onTap: (hand, stamp) => {
      if (state.phase === "listening") return session.slip(stamp);
      session.tap(hand, stamp);
      desk.ruler.current?.light(hand);
    },
    onArrow: (by) => {
      if (canChoose) desk.movePassage(by);
    },
    onEscape: () => (idle ? desk.clearPassage() : session.discard()),
    onTempo: (by) => {
      if (canChoose) desk.stepTempo(by);
    },
    onKey: (key, stamp) => {
      const channel = CHANNELS[Number(key) - 1];
      if (channel) setPlay({ mix: { ...play.mix, muted: { ...play.mix.muted, [channel]: !play.mix.muted[channel] } } });
      else if (key === "n" && idle && onLadder) session.listen();
      else if (key === "g" && idle && onLadder) session.guide();
      else if (key === "c" && idle && onLadder && state.take?.verdict?.cure) onCure(state.take.verdict.cure);
      else if (key === "t") tapped(desk.tapTempo, stamp, desk.setBpm);
      else if (key === "s") desk.setStand(!desk.isStand);
      else if (key === "l") setPlay({ rounds: play.rounds > 1 ? 1 : OVER_AND_OVER });
      else return false;
      return true;
    },
  });
}
