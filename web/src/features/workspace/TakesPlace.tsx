/** The takes of a piece: what was played, from a file too, and the simulated student. */
import { Suspense, lazy } from "react";

import { loaded } from "../../lib/loading";
import { keyboards } from "../../session/current";
import { TakeList } from "../takes/TakeList";
import type { DeskView } from "./useDesk";

const DemoCorner = lazy(() =>
  loaded(() => import("../practice/DemoCorner")).then((it) => ({ default: it.DemoCorner })),
);

type Props = { desk: DeskView; onSimulate: (what: "take" | "stand-in") => void };

export function TakesPlace({ desk, onSimulate }: Props) {
  const { piece, settings } = desk;
  return (
    <div className="max-w-3xl">
      <TakeList
        pieceId={piece.id}
        student={desk.study.student_id}
        asked={{ ...settings, activity: settings.activity === "count" ? "play" : settings.activity }}
        passageWords={desk.takeWords}
        demo={
          <Suspense>
            <DemoCorner
              keyboards={keyboards}
              onKeys={settings.activity === "play"}
              faults={desk.choice.standIn?.faults.length ?? 0}
              disabled={!desk.idle}
              onSimulate={() => onSimulate("take")}
              onPlan={() => onSimulate("stand-in")}
            />
          </Suspense>
        }
      />
    </div>
  );
}
