/** How the hands go together, and what is made of a place of the map: a rung of its own, or a drill in all keys. */
import type { ComponentProps } from "react";
import { useNavigate } from "react-router";

import type { HardPlace, Rung, Study } from "../../api/client";
import { useIsTeacher } from "../../api/me";
import { useKeepDrill } from "../../api/queries/drills";
import { useEdit } from "../../api/queries/studies";
import type { Edit } from "../../lib/editedLadder";
import { useToast } from "../../ui/kit";
import { TogetherView } from "./TogetherView";

type Props = Omit<ComponentProps<typeof TogetherView>, "reach" | "onLadder" | "onDrill"> & {
  study: Study;
  onRung: (key: string) => void;
};

export function TogetherPlace({ study, onRung, ...view }: Props) {
  const { piece } = view;
  const isTeacher = useIsTeacher();
  const edit = useEdit(study);
  const keep = useKeepDrill();
  const navigate = useNavigate();
  const toast = useToast();
  const bars = ({ from_bar, to_bar }: HardPlace) =>
    [from_bar, to_bar].map((index) => piece.ruler.measures[index]?.number ?? "");
  const failed = (problem: unknown, words: string) => toast(problem instanceof Error ? problem.message : words);
  /** A place of the map as a rung of its own, right above the one that is next; one that is there is gone to. */
  const toLadder = async (place: HardPlace) => {
    const { from_bar, to_bar, within } = place;
    const here = (one: Rung) => one.first === from_bar && one.last === to_bar && one.within === within;
    const known = study.rungs.find(here);
    if (known) return onRung(known.key);
    const [first, last] = bars(place);
    const wanted = { kind: "add", stage: "seams", hands: "both", first, last, within, above: study.now } as Edit;
    try {
      const made = (await edit.mutateAsync(wanted)).rungs.find(here);
      if (made) onRung(made.key);
    } catch (problem) {
      failed(problem, "It could not be put on the ladder. Nothing was changed.");
    }
  };
  /** A place of the map as a drill in all keys: a piece of its own. */
  const toDrill = async (place: HardPlace) => {
    const [first = "", last = ""] = bars(place);
    const measures = place.from_bar === place.to_bar ? first : `${first}-${last}`;
    const options = { of: String(piece.id), measures, within: place.within ?? "", keys: "all" };
    try {
      void navigate(`/pieces/${(await keep.mutateAsync({ kind: "spot", options })).id}?view=practise`);
    } catch (problem) {
      failed(problem, "The drill could not be made. Nothing was changed.");
    }
  };
  return (
    <TogetherView
      {...view}
      reach={{ span: study.span, of: study.student }}
      onLadder={isTeacher ? (place) => void toLadder(place) : null}
      onDrill={isTeacher ? (place) => void toDrill(place) : null}
    />
  );
}
