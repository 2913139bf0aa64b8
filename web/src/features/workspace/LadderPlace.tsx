/** The ladder of a piece: its rungs, the ruler, the card of the rung one stands on, and the takes. */
import type { RungKey } from "../../api/client";
import { keyboards, session } from "../../session/current";
import { CountPanel } from "../counting/CountPanel";
import { LadderView } from "../practice/LadderView";
import { Listening, LiveTake } from "../practice/LiveTake";
import { RungCard } from "../practice/RungCard";
import { TakeList } from "../takes/TakeList";
import { WorkedRuler } from "./WorkedRuler";
import { Downloads } from "./parts";
import type { DeskView } from "./useDesk";

type Props = {
  desk: DeskView;
  onRung: (rung: RungKey) => void;
  onMore: () => void;
  onSimulate: (what: "take" | "stand-in") => void;
};

export function LadderPlace({ desk, onRung, onMore, onSimulate }: Props) {
  const { piece, settings } = desk;
  return (
    <div className="grid gap-x-6 gap-y-4 md:grid-cols-[176px_minmax(0,1fr)] xl:grid-cols-[176px_minmax(0,1fr)_304px]">
      <LadderView rungs={piece.rungs} current={settings.rung} onChoose={onRung} />
      <div className="min-w-0 max-md:contents max-md:*:min-w-0 md:max-xl:order-3 md:max-xl:col-span-2">
        <WorkedRuler desk={desk} />
        <div className="max-md:order-4">
          <BelowRuler desk={desk} />
        </div>
      </div>
      <div className="min-w-0 max-md:order-3 md:max-xl:order-2 xl:col-start-3">
        <Card desk={desk} onMore={onMore} onSimulate={onSimulate} />
      </div>
    </div>
  );
}

function BelowRuler({ desk }: { desk: DeskView }) {
  const { piece, settings, counts } = desk;
  const showBar = (onset: number) => {
    const bar = piece.ruler.measures.findLast((one) => one.start_quarters <= onset);
    if (bar) desk.ruler.current?.showBar(bar.start_quarters);
  };
  return (
    <>
      {counts ? (
        <CountPanel pieceId={piece.id} bpm={settings.bpm} counts={counts} disabled={!desk.idle} onBar={showBar} />
      ) : null}
      <TakeList
        pieceId={piece.id}
        asked={{ ...settings, rung: settings.rung === "count" ? "play" : settings.rung }}
        passageWords={desk.passageWords}
      />
      <Downloads piece={piece} />
    </>
  );
}

/** What to do on this rung; while it runs, what is going on. On a phone that covers the foot of the screen. */
function Card({ desk, onMore, onSimulate }: Pick<Props, "desk" | "onMore" | "onSimulate">) {
  const { piece, settings, state, choice, setChoice, play, setPlay } = desk;
  const rung = piece.rungs.find((one) => one.key === settings.rung) ?? piece.rungs[0];
  if (state.phase === "listening") return <Live card={<Listening session={session} state={state} />} />;
  if (state.phase === "recording" || state.phase === "between") {
    return <Live card={<LiveTake session={session} state={state} rung={settings.rung} />} />;
  }
  if (!rung) return null;
  return (
    <div className="sticky top-3">
      <RungCard
        piece={piece}
        rung={rung}
        counts={desk.counts}
        choice={choice}
        onChoice={setChoice}
        passageWords={desk.passageWords}
        mix={play.mix}
        onMix={(mix) => setPlay({ mix })}
        onMore={onMore}
        keyboards={keyboards}
        session={session}
        state={state}
        onPlan={() => onSimulate("stand-in")}
        onSimulate={() => onSimulate("take")}
      />
    </div>
  );
}

const COVERS = "max-md:fixed max-md:inset-x-0 max-md:top-auto max-md:bottom-0 max-md:z-10 max-md:bg-paper max-md:p-3";

function Live({ card }: { card: React.ReactNode }) {
  return (
    <div data-covers="" className={`sticky top-3 ${COVERS}`}>
      {card}
    </div>
  );
}
