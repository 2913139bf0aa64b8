/** Playing along: the ruler with what is chosen above it, and the card with what is counted now. */
import { session } from "../../session/current";
import { PlayCard, PlayChoices } from "../play_along/PlayCard";
import { StandSwitch } from "./StandSwitch";
import { WorkedRuler } from "./WorkedRuler";
import type { DeskView } from "./useDesk";

export function PlayPlace({ desk }: { desk: DeskView }) {
  const { piece, options, setChoice, play, setPlay } = desk;
  const hands = { hand: desk.hands, onHand: (hand: typeof desk.hands) => setChoice({ hand }) };
  const shared = { piece, options, choice: play, onChoice: setPlay, bpm: desk.bpm, ...hands };
  return (
    <div className="grid gap-x-8 gap-y-3 xl:grid-cols-[minmax(0,1fr)_344px] xl:grid-rows-[auto_1fr]">
      <div className="min-w-0 max-xl:order-2 xl:col-start-2 xl:row-span-2 xl:row-start-1">
        <PlayCard
          {...shared}
          counts={desk.counts}
          onBpm={desk.setBpm}
          tapTempo={desk.tapTempo}
          measures={desk.settings.measures}
          passageWords={desk.passageWords}
          session={session}
          state={desk.state}
          stand={<StandSwitch desk={desk} />}
        />
      </div>
      <div className="min-w-0 max-xl:order-1 xl:col-start-1 xl:row-start-1">
        <WorkedRuler desk={desk} />
      </div>
      <div className="min-w-0 max-xl:order-3 xl:col-start-1 xl:row-start-2">
        <PlayChoices {...shared} />
      </div>
    </div>
  );
}
