/** The simulated student asked to play: a take of its own, or on the stand-in keyboard when it is recorded. */
import { useNavigate } from "react-router";

import { useSimulateTake } from "../../api/queries/takes";
import type { Plan } from "../../session/state";
import { SimulateDialog } from "../practice/SimulateDialog";
import type { DeskView } from "./useDesk";

type Props = { desk: DeskView; what: "take" | "stand-in" | null; onClose: () => void };

export function Simulating({ desk, what, onClose }: Props) {
  const { piece, settings, setChoice } = desk;
  const simulate = useSimulateTake(piece.id);
  const navigate = useNavigate();
  const close = () => {
    simulate.reset();
    onClose();
  };
  const playTake = (plan: Plan) =>
    simulate.mutate(
      { ...settings, ...plan },
      {
        onSuccess: (take) => {
          close();
          void navigate(`/pieces/${piece.id}/takes/${take.id}`);
        },
      },
    );
  const planStandIn = (plan: Plan) => {
    setChoice({ standIn: plan });
    close();
  };
  return (
    <SimulateDialog
      piece={piece}
      keys={settings.activity === "play"}
      standIn={what === "stand-in"}
      open={what !== null}
      busy={simulate.isPending}
      problem={simulate.error}
      onClose={close}
      onPlay={what === "stand-in" ? planStandIn : playTake}
    />
  );
}
