/** Practise: the ladder, the bars of its rung, the card of what is to be done, and the whole piece as a strip. */
import { Suspense, lazy, useState } from "react";

import type { Activity, Rung } from "../../api/client";
import { useIsTeacher } from "../../api/me";
import { loaded } from "../../lib/loading";
import { keyboards, session } from "../../session/current";
import { RulerView } from "../../ruler/RulerView";
import { Button, Problem } from "../../ui/kit";
import { LadderView } from "../ladder/LadderView";
import type { Cure } from "../practice/Outcome";
import { PieceStrip } from "../ladder/PieceStrip";
import { RungCard } from "../practice/RungCard";
import { RoadmapLine } from "../roadmap/RoadmapLine";
import { PassageLine } from "./parts";
import type { DeskView } from "./useDesk";

/** What is opened now and then is loaded then. */
const EditRung = lazy(() => loaded(() => import("../ladder/EditRung")).then((it) => ({ default: it.EditRung })));
const Outcome = lazy(() => loaded(() => import("../practice/Outcome")).then((it) => ({ default: it.Outcome })));
const SchoolSheet = lazy(() =>
  loaded(() => import("../ladder/SchoolSheet")).then((it) => ({ default: it.SchoolSheet })),
);
const TakeSettings = lazy(() =>
  loaded(() => import("../practice/Settings")).then((it) => ({ default: it.TakeSettings })),
);
const PassageChoice = lazy(() =>
  loaded(() => import("../ladder/PassageChoice")).then((it) => ({ default: it.PassageChoice })),
);
const StandSwitch = lazy(() => loaded(() => import("./StandSwitch")).then((it) => ({ default: it.StandSwitch })));
const TakeAlong = lazy(() => loaded(() => import("../ladder/TakeAlong")).then((it) => ({ default: it.TakeAlong })));
const FreeCard = lazy(() => loaded(() => import("../practice/FreeCard")).then((it) => ({ default: it.FreeCard })));

type Props = {
  desk: DeskView;
  onRung: (key: string) => void;
  onFree: (activity: Activity) => void;
  onCure: (cure: Cure) => void;
  onMore: () => void;
  onLineUp: () => void;
  onPassage: (measures: string) => void;
};

/** In the order of the keyboard the card comes first; on a wide screen the ladder, on a phone the bars. */
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
      <div className="min-w-0 max-md:order-2 md:col-start-2 md:row-start-2 xl:col-start-3 xl:row-span-2 xl:row-start-1">
        <div className="xl:sticky xl:top-3">
          <Card {...props} />
        </div>
      </div>
      <div className="min-w-0 max-md:order-1 md:col-start-2 md:row-start-1">
        {rung ? (
          <p className="mb-1 font-bold md:hidden" data-screen-only="">
            {rung.stage_words} · {rung.title.toLowerCase()}
          </p>
        ) : null}
        <RoadmapLine pieceId={piece.id} />
        {desk.isOwnPassage && rung ? null : (
          <PassageLine piece={piece} passage={rung ? null : desk.passage} onClear={desk.clearPassage} />
        )}
        <RulerView
          ruler={piece.ruler}
          counts={desk.counts}
          hands={desk.hands}
          names={desk.meetings}
          passage={rung && !desk.isOwnPassage ? null : desk.passage}
          only={rung || desk.spot ? desk.passage : null}
          spot={desk.spot}
          onBar={desk.onBar}
          handle={desk.ruler}
        />
        {desk.problem ? <Problem error={desk.problem} /> : null}
        <PieceStrip ruler={piece.ruler} bars={study.bars} here={desk.passage} onBar={desk.onBar} />
      </div>
      <div className="min-w-0 max-md:order-4 md:row-span-3 md:row-start-1 xl:row-span-2">
        <Ways desk={desk} onPassage={props.onPassage} />
        <LadderView
          study={study}
          rung={rung}
          free={"free" in what ? what.free : null}
          onRung={onRung}
          onFree={onFree}
        />
      </div>
    </div>
  );
}

/** The session that needs no touch, and how the ladder is taught. */
function Ways({ desk, onPassage }: Pick<Props, "desk" | "onPassage">) {
  const [school, setSchool] = useState(false);
  const { study, idle } = desk;
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-2" data-screen-only="">
      <Button keys="G" disabled={!idle || study.now === null} onClick={() => session.guide()}>
        Practise with me
      </Button>
      {useIsTeacher() ? (
        <Button look="quiet" onClick={() => setSchool(true)}>
          How it is taught
        </Button>
      ) : null}
      <Suspense>
        <PassageChoice
          pieceId={desk.piece.id}
          student={study.student_id}
          measures={study.measures}
          chosen={desk.isOwnPassage ? desk.measures : null}
          onChoose={onPassage}
        />
      </Suspense>
      <details className="basis-full">
        <summary className="cursor-pointer py-1 text-sm">To take along</summary>
        <Suspense>
          <TakeAlong pieceId={desk.piece.id} student={study.student_id} />
        </Suspense>
      </details>
      {study.is_done ? <p className="font-semibold">All of it is done.</p> : null}
      {study.now === null && !study.is_done ? <p className="font-semibold">Enough for today.</p> : null}
      {school ? (
        <Suspense>
          <SchoolSheet study={study} open onClose={() => setSchool(false)} />
        </Suspense>
      ) : null}
    </div>
  );
}

function Card({ desk, onRung, onFree, onCure, onMore, onLineUp }: Props) {
  // The rung as it was when it was opened: while it is left out it is on no ladder.
  const [edited, setEdited] = useState<Rung | null>(null);
  const { piece, study, rung, what, state, choice, setChoice, play, setPlay } = desk;
  // Nothing is said before the first take: what says it comes after the place itself.
  const outcome = (
    <Suspense>
      <Outcome piece={piece} session={session} state={state} onCure={onCure} />
    </Suspense>
  );
  const settings = (
    <Suspense>
      <TakeSettings
        choice={choice}
        onChoice={setChoice}
        rounds={rung ? choice.rounds : choice.freeRounds}
        onRounds={(rounds) => setChoice(rung ? { rounds } : { freeRounds: rounds })}
        mix={play.mix}
        onMix={(mix) => setPlay({ mix })}
        onMore={onMore}
        session={session}
        busy={!desk.idle}
        canGoRound={desk.canGoRound && (rung === null || desk.isOwnPassage)}
        stand={<StandSwitch desk={desk} />}
      />
    </Suspense>
  );
  const shared = { piece, counts: desk.counts, choice, session, state, keyboards, outcome, settings };
  if ("free" in what) {
    return (
      <Suspense>
        <FreeCard
          {...shared}
          activity={what.free}
          student={study.student_id}
          bpm={desk.bpm}
          onBpm={desk.setBpm}
          onHand={(hand) => setChoice({ hand })}
          takeWords={desk.takeWords}
          density={desk.density}
          onAsCounted={desk.asCounted}
        />
      </Suspense>
    );
  }
  const below = study.rungs[study.rungs.findIndex((one) => one.key === what.rung.key) - 1];
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
        onEdit={() => setEdited(what.rung)}
        loop={desk.loop}
        onLoop={desk.setLoop}
        onBack={below ? () => onRung(below.key) : null}
      />
      {edited ? (
        <Suspense>
          <EditRung
            key={edited.key}
            piece={piece}
            study={study}
            rung={study.rungs.find((one) => one.key === edited.key) ?? edited}
            open
            onClose={() => setEdited(null)}
            onRung={onRung}
          />
        </Suspense>
      ) : null}
    </>
  );
}
