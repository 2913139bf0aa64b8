/** After a take: a recording on its way, and throwing away what was not meant. */
import type { Take } from "../../api/client";
import { useDeleteTake } from "../../api/queries/takes";
import type { PracticeSession } from "../../session/practice";
import type { HearingStage } from "../../session/server";
import { Button, useToast } from "../../ui/kit";

/** A recording on its way: how much of it was sent, then that it is listened to. */
export function Hearing({ stage }: { stage: HearingStage }) {
  return (
    <div role="status" className="rounded-lg bg-here p-3">
      {stage === "listening" ? (
        "Listening …"
      ) : (
        <>
          Sending the recording …
          <progress className="mt-1 block w-full" value={stage.sent} max={1}>
            {Math.round(100 * stage.sent)} %
          </progress>
        </>
      )}
    </div>
  );
}

type ThrowAwayProps = { pieceId: number; take: Take; session: PracticeSession; disabled: boolean };

/** A take that was not meant: removed, which can be undone. */
export function ThrowAway({ pieceId, take, session, disabled }: ThrowAwayProps) {
  const remove = useDeleteTake(pieceId);
  const toast = useToast();
  const onThrow = () =>
    remove.mutate(
      { id: take.id, deleted: true },
      {
        onSuccess: () => {
          session.throwAway();
          toast("The take is removed.", () => remove.mutate({ id: take.id, deleted: false }));
        },
      },
    );
  return (
    <Button look="quiet" disabled={disabled || remove.isPending} onClick={onThrow}>
      Throw it away
    </Button>
  );
}
