/** Practise: the ladder, the bars of its rung, the card of what is to be done, and the whole piece as a strip. */
import { useState } from "react";

import type { Activity } from "../../api/client";
import { keyboards, session } from "../../session/current";
import { RulerView } from "../../ruler/RulerView";
import { Button, Problem } from "../../ui/kit";
import { EditRung } from "../practice/EditRung";
import { FreeCard } from "../practice/FreeCard";
import { LadderView } from "../practice/LadderView";
import { type Cure, Outcome } from "../practice/Outcome";
import { PieceStrip } from "../practice/PieceStrip";
import { RungCard } from "../practice/RungCard";
import { SchoolSheet } from "../practice/SchoolSheet";
import { TakeSettings } from "../practice/Settings";
import { StandSwitch } from "./StandSwitch";
import type { DeskView } from "./useDesk";

type Props = {
  desk: DeskView;
  onRung: (key: string) => void;
  onFree: (activity: Activity) => void;
  onCure: (cure: Cure) => void;
  onMore: () => void;
  onLineUp: () => void;
};

/** In the order of the keyboard the ladder and the card come first; on the screen the bars do. */
export function PractisePlace(props: Props) {
  const { desk, onRung, onFree } = props;
  const { piece, study, rung, what } = desk;
  return (
    <div
      className={[
        "grid gap-x-8 gap-y-3 md:grid-cols-[200px_minmax(0,1fr)]",
        "xl:grid-cols-[200px_minmax(0,1fr)_320px] xl:grid-rows-[auto_1fr]",
      ].join(" ")}
    >
      <div className="min-w-0 max-md:order-4 md:row-span-3 md:row-start-1 xl:row-span-2">
        <Ways desk={desk} />
        <LadderView
          study={study}
          rung={rung}
          free={"free" in what ? what.free : null}
          onRung={onRung}
          onFree={onFree}
        />
      </div>
      <div className="min-w-0 max-md:order-1 md:col-start-2 md:row-start-2 xl:col-start-3 xl:row-span-2 xl:row-start-1">
        <div className="xl:sticky xl:top-3">
          <Card {...props} />
        </div>
      </div>
      <div className="min-w-0 max-md:order-2 md:col-start-2 md:row-start-1">
        {desk.isOwnPassage && rung ? null : (
          <p data-screen-only="" className="mb-1 text-sm text-quiet max-md:hidden">
            Choose a bar’s number to work on that bar only; hold Shift for several.
          </p>
        )}
        <RulerView
          ruler={piece.ruler}
          counts={desk.counts}
          hands={desk.hands}
          passage={rung && !desk.isOwnPassage ? null : desk.passage}
          only={rung ? desk.passage : null}
          onBar={desk.onBar}
          handle={desk.ruler}
        />
        {desk.problem ? <Problem error={desk.problem} /> : null}
        <PieceStrip ruler={piece.ruler} bars={study.bars} here={desk.passage} onBar={desk.onBar} />
      </div>
    </div>
  );
}

/** The session that needs no touch, and how the ladder is taught. */
function Ways({ desk }: { desk: DeskView }) {
  const [school, setSchool] = useState(false);
  const { study, idle } = desk;
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-2" data-screen-only="">
      <Button keys="G" disabled={!idle || study.now === null} onClick={() => session.guide()}>
        Practise with me
      </Button>
      <Button look="quiet" onClick={() => setSchool(true)}>
        How it is taught
      </Button>
      {study.is_done ? <p className="font-semibold">All of it is done.</p> : null}
      {study.now === null && !study.is_done ? <p className="font-semibold">Enough for today.</p> : null}
      <SchoolSheet study={study} open={school} onClose={() => setSchool(false)} />
    </div>
  );
}

function Card({ desk, onRung, onFree, onCure, onMore, onLineUp }: Props) {
  const [editing, setEditing] = useState(false);
  const { piece, study, rung, what, state, choice, setChoice, play, setPlay } = desk;
  const outcome = <Outcome piece={piece} session={session} state={state} onCure={onCure} />;
  const settings = (
    <TakeSettings
      choice={choice}
      onChoice={setChoice}
      mix={play.mix}
      onMix={(mix) => setPlay({ mix })}
      onMore={onMore}
      session={session}
      busy={!desk.idle}
      canGoRound={desk.canGoRound && (rung === null || desk.isOwnPassage)}
      stand={<StandSwitch desk={desk} />}
    />
  );
  const shared = { piece, counts: desk.counts, choice, session, state, keyboards, outcome, settings };
  if ("free" in what) {
    return (
      <FreeCard
        {...shared}
        activity={what.free}
        bpm={desk.bpm}
        onBpm={desk.setBpm}
        onHand={(hand) => setChoice({ hand })}
        takeWords={desk.takeWords}
      />
    );
  }
  return (
    <>
      <RungCard
        {...shared}
        study={study}
        rung={what.rung}
        bpm={desk.bpm}
        onBpm={desk.setBpm}
        otherBars={desk.isOwnPassage ? desk.passageWords : null}
        onRungBars={desk.clearPassage}
        onLineUp={onLineUp}
        onTapCount={() => onFree("count")}
        onEdit={() => setEditing(true)}
      />
      <EditRung
        key={what.rung.key}
        piece={piece}
        study={study}
        rung={what.rung}
        open={editing}
        onClose={() => setEditing(false)}
        onRung={onRung}
      />
    </>
  );
}
