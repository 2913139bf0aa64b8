/** In which order the bars are played, in one line; signs that contradict each other are told. */
import { useRoadmap } from "../../api/queries/score";
import { runsOf } from "./stretches";

export function RoadmapLine({ pieceId }: { pieceId: number }) {
  const road = useRoadmap(pieceId);
  if (!road.data || (road.data.is_plain && !road.data.problems.length)) return null;
  return (
    <div className="mb-2 text-sm">
      {road.data.is_plain ? null : (
        <p>
          <span className="text-quiet">Played{road.data.is_own ? ", as you ordered it" : ""}: bars</span>{" "}
          <b>{runsOf(road.data.order).join(" · ")}</b>
        </p>
      )}
      {road.data.problems.map((problem) => (
        <p key={problem.measure + problem.text} className="text-warn">
          Bar {problem.measure}: {problem.text}.
        </p>
      ))}
    </div>
  );
}
