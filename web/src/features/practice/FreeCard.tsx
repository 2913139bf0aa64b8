/** Practising freely, whatever the ladder says: what is done, which hands, which bars; play along, record, what came of it. */
import { type ReactNode, Suspense, lazy } from "react";

import type { Activity, Counts, Density, HandChoice, Piece } from "../../api/client";
import { activities, densities, wordsFor } from "../../api/trade";
import { HANDS } from "../../lib/words";
import type { CardChoice } from "../../session/cardChoice";
import { loaded } from "../../lib/loading";
import type { PracticeSession } from "../../session/practice";
import type { Standing } from "../../session/state";
import type { Keyboards } from "../../sound/keyboard";
import { Choice } from "../../ui/Choice";
import { CountIn } from "./CountIn";
import { Starting } from "./Starting";

const HowHeard = lazy(() => loaded(() => import("./HowHeard")).then((it) => ({ default: it.HowHeard })));

/** What the choice of hands means, said on first use. */
const HAND_HINTS: Record<Activity, string> = {
  count: "Whose rhythm is counted: one hand’s, or what both make together.",
  lap: "Which hands tap; the other one rests.",
  play: "Which hands play; the other one rests.",
};
const HAND_LABELS: Record<Activity, string> = { count: "Count of", lap: "Tap", play: "Play" };

type Props = {
  piece: Piece;
  activity: Activity;
  /** Who plays. */
  student: number;
  counts: Counts | undefined;
  choice: CardChoice;
  bpm: number;
  onBpm: (bpm: number) => void;
  onHand: (hand: HandChoice) => void;
  /** What a take is of. */
  takeWords: string;
  /** It is counted more densely than is chosen for the piece. */
  density: Density | null;
  onAsCounted: () => void;
  session: PracticeSession;
  state: Standing;
  keyboards: Keyboards;
  outcome: ReactNode;
  settings: ReactNode;
};

export function FreeCard(props: Props) {
  const { piece, activity, counts, choice, takeWords, session, state, keyboards } = props;
  const busy = state.phase !== "idle";
  const words = activities().find((one) => one.key === activity);
  return (
    <section data-screen-only="" aria-label="Freely" className="rounded-lg bg-card p-5">
      <h2 className="text-lg font-bold">{words?.title}</h2>
      <p className="mb-2 text-quiet">{words?.what}</p>
      <Starting
        piece={piece}
        bpm={props.bpm}
        onBpm={props.onBpm}
        session={session}
        state={state}
        outcome={props.outcome}
        start="Record"
        onStart={() => session.record(choice.freeRounds)}
      />
      <CountIn counts={counts} />
      <p className="mb-3 text-quiet">
        Now {takeWords}.
        {props.density ? (
          <>
            {" "}
            Counted: {wordsFor(densities(), props.density)}.{" "}
            <button type="button" className="underline" onClick={props.onAsCounted}>
              As this piece is counted
            </button>
          </>
        ) : null}
      </p>
      {activity === "play" || activity === "lap" ? (
        <Suspense>
          <HowHeard
            piece={piece}
            hands={choice.hand}
            activity={activity}
            student={props.student}
            keyboards={keyboards}
            disabled={busy}
          />
        </Suspense>
      ) : null}
      <div className="mt-3 grid gap-2 border-t border-line pt-3">
        <Choice
          label={HAND_LABELS[activity]}
          value={choice.hand}
          options={HANDS}
          hint={HAND_HINTS[activity]}
          onChange={props.onHand}
        />
        {props.settings}
      </div>
    </section>
  );
}
