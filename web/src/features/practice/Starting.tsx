/** What starts it, with the tempo; at the foot of a smaller screen, with what came of the last run above it. */
import type { ReactNode } from "react";

import type { Piece } from "../../api/client";
import type { PracticeSession } from "../../session/practice";
import type { Standing } from "../../session/state";
import { FOOT_LOOK, START_LOOK } from "../../ui/foot";
import { Button } from "../../ui/kit";
import { TempoStepper } from "../../ui/Tempo";

type Props = {
  piece: Piece;
  bpm: number;
  onBpm: (bpm: number) => void;
  session: PracticeSession;
  state: Standing;
  outcome: ReactNode;
  /** The one strong button, and what it does; null where there is nothing to take down. */
  start: string | null;
  /** The same where there is little room. */
  shortStart?: string;
  onStart: () => void;
  /** What the play-along is called where it is not one. */
  playWords?: string;
};

export function Starting({ piece, bpm, onBpm, session, state, outcome, start, onStart, shortStart, playWords }: Props) {
  const busy = state.phase !== "idle";
  return (
    <div className={FOOT_LOOK} data-foot="">
      <div className="empty:hidden max-xl:max-h-[40dvh] max-xl:overflow-y-auto">{outcome}</div>
      <div className="grid gap-2 max-xl:grid-cols-[auto_1fr_1fr] max-xl:items-center">
        <TempoStepper beat={piece} bpm={bpm} marks={piece.metronome_marks} disabled={busy} onBpm={onBpm} />
        {start === null ? null : (
          <Button look="strong" keys="R" className={START_LOOK} disabled={busy} onClick={onStart}>
            <span className={shortStart ? "max-md:hidden" : ""}>{start}</span>
            {shortStart ? <span className="md:hidden">{shortStart}</span> : null}
          </Button>
        )}
        <Button
          look={start === null ? "strong" : "plain"}
          keys="Space"
          className={START_LOOK}
          onClick={() => (busy ? session.stop() : session.play())}
          disabled={state.phase === "sending"}
        >
          {busy ? "Stop" : (playWords ?? "Play along")}
        </Button>
      </div>
    </div>
  );
}
