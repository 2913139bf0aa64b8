/** For who is only looking: a simulated student who plays a take, and a keyboard that is none, on which he plays. */
import { useSyncExternalStore } from "react";

import { count } from "../../lib/words";
import { type Keyboards, STAND_IN } from "../../sound/keyboard";
import { Button } from "../../ui/kit";

type Props = {
  keyboards: Keyboards;
  /** Whether it is played on keys here: only then is there a keyboard to stand in for. */
  onKeys: boolean;
  /** How many faults the student on the stand-in has. */
  faults: number;
  disabled: boolean;
  onSimulate: () => void;
  onPlan: () => void;
};

export function DemoCorner({ keyboards, onKeys, faults, disabled, onSimulate, onPlan }: Props) {
  const { chosen } = useSyncExternalStore(keyboards.subscribe, keyboards.snapshot);
  const isStandIn = chosen === STAND_IN.id;
  return (
    <details className="mt-3" data-screen-only="">
      <summary className="cursor-pointer py-2 text-quiet">Just looking? A student to try it with</summary>
      <p className="mt-1">
        A simulated student plays this rung with human timing, and with faults of your choice.{" "}
        <Button disabled={disabled} onClick={onSimulate}>
          Let the simulated student play …
        </Button>
      </p>
      {onKeys ? (
        <p className="mt-3">
          {isStandIn
            ? `The stand-in keyboard is chosen: recorded, it plays ${faults ? `with ${count(faults, "fault")}` : "cleanly"}. `
            : "Or he plays on a stand-in keyboard while you record, as a real one would. "}
          <Button disabled={disabled} onClick={isStandIn ? onPlan : () => keyboards.choose(STAND_IN.id)}>
            {isStandIn ? "Change it …" : "Use the stand-in"}
          </Button>
        </p>
      ) : null}
    </details>
  );
}
