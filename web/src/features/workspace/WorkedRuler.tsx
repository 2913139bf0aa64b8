/** The ruler one works on: the passage chosen on it, the order of its bars, its signs. */
import { RulerView } from "../../ruler/RulerView";
import { Problem } from "../../ui/kit";
import { RoadmapLine } from "../roadmap/RoadmapLine";
import { Legend, PassageLine } from "./parts";
import type { DeskView } from "./useDesk";

export function WorkedRuler({ desk }: { desk: DeskView }) {
  const { piece, passage } = desk;
  return (
    <>
      <PassageLine piece={piece} passage={passage} onClear={desk.clearPassage} />
      <RoadmapLine pieceId={piece.id} />
      <RulerView
        ruler={piece.ruler}
        counts={desk.counts}
        hands={desk.hands}
        names={desk.meetings}
        passage={passage}
        onBar={desk.onBar}
        handle={desk.ruler}
      />
      {desk.problem ? <Problem error={desk.problem} /> : null}
      <Legend />
    </>
  );
}
