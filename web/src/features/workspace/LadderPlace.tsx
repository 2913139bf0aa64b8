/** The ladder of a piece: its rungs, the card of the rung one stands on, the ruler, and the takes. */
import { Suspense, lazy } from "react";

import type { RungKey } from "../../api/client";
import { loaded } from "../../lib/loading";
import { keyboards, session } from "../../session/current";
import { LadderView } from "../practice/LadderView";
import { RungCard } from "../practice/RungCard";
import { TakeList } from "../takes/TakeList";
import { StandSwitch } from "./StandSwitch";
import { WorkedRuler } from "./WorkedRuler";
import { Downloads } from "./parts";
import type { DeskView } from "./useDesk";

/** What is looked for below the ruler is loaded after it. */
const DemoCorner = lazy(() => loaded(import("../practice/DemoCorner")).then((it) => ({ default: it.DemoCorner })));
const CountPanel = lazy(() => loaded(import("../counting/CountPanel")).then((it) => ({ default: it.CountPanel })));

type Props = {
  desk: DeskView;
  onRung: (rung: RungKey) => void;
  onMore: () => void;
  onSimulate: (what: "take" | "stand-in") => void;
};

/** In the order of the keyboard the rungs and the card come first; on the screen the ruler does. */
export function LadderPlace({ desk, onRung, onMore, onSimulate }: Props) {
  const { piece, settings } = desk;
  return (
    <div
      className={[
        "grid gap-x-8 gap-y-3 md:grid-cols-[176px_minmax(0,1fr)]",
        "xl:grid-cols-[176px_minmax(0,1fr)_320px] xl:grid-rows-[auto_1fr]",
      ].join(" ")}
    >
      <div className="min-w-0 md:row-span-3 md:row-start-1 xl:row-span-2">
        <LadderView rungs={piece.rungs} current={settings.rung} onChoose={onRung} />
      </div>
      <div className="min-w-0 max-md:order-3 md:col-start-2 md:row-start-2 xl:col-start-3 xl:row-span-2 xl:row-start-1">
        <Card desk={desk} onMore={onMore} />
      </div>
      <div className="min-w-0 max-md:order-2 md:col-start-2 md:row-start-1">
        <WorkedRuler desk={desk} />
      </div>
      <div className="min-w-0 max-md:order-4 md:col-start-2 md:row-start-3 xl:row-start-2">
        <BelowRuler desk={desk} onSimulate={onSimulate} />
      </div>
    </div>
  );
}

function BelowRuler({ desk, onSimulate }: Pick<Props, "desk" | "onSimulate">) {
  const { piece, settings, counts } = desk;
  const showBar = (onset: number) => {
    const bar = piece.ruler.measures.findLast((one) => one.start_quarters <= onset);
    if (bar) desk.ruler.current?.showBar(bar.start_quarters);
  };
  return (
    <>
      {counts ? (
        <Suspense>
          <CountPanel pieceId={piece.id} bpm={settings.bpm} counts={counts} disabled={!desk.idle} onBar={showBar} />
        </Suspense>
      ) : null}
      <TakeList
        pieceId={piece.id}
        asked={{ ...settings, rung: settings.rung === "count" ? "play" : settings.rung }}
        passageWords={desk.takeWords}
        demo={
          <Suspense>
            <DemoCorner
              keyboards={keyboards}
              onKeys={settings.rung === "play"}
              faults={desk.choice.standIn?.faults.length ?? 0}
              disabled={!desk.idle}
              onSimulate={() => onSimulate("take")}
              onPlan={() => onSimulate("stand-in")}
            />
          </Suspense>
        }
      />
      <Downloads piece={piece} />
    </>
  );
}

/** What to do on this rung, and what came of it. */
function Card({ desk, onMore }: Pick<Props, "desk" | "onMore">) {
  const { piece, settings, state, choice, setChoice, play, setPlay } = desk;
  const rung = piece.rungs.find((one) => one.key === settings.rung) ?? piece.rungs[0];
  if (!rung) return null;
  return (
    <div className="xl:sticky xl:top-3">
      <RungCard
        piece={piece}
        rung={rung}
        counts={desk.counts}
        choice={choice}
        onChoice={setChoice}
        takeWords={desk.takeWords}
        canGoRound={desk.canGoRound}
        mix={play.mix}
        onMix={(mix) => setPlay({ mix })}
        onMore={onMore}
        keyboards={keyboards}
        session={session}
        state={state}
        stand={<StandSwitch desk={desk} />}
      />
    </div>
  );
}
