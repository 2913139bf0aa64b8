/** Takes and recordings that wait on this device because the server does not have them: sent or discarded here. */
import { useEffect, useState } from "react";

import { queryClient } from "../../api/queries/client";
import { sendTake } from "../../api/queries/takes";
import { sendRecording } from "../../api/recording";
import { count } from "../../lib/words";
import { type Pending, forgetPending, pendingTakes } from "../../session/pending";
import { type Shelved, shelved, soundOf, unshelve } from "../../session/shelf";
import { Button, Problem } from "../../ui/kit";

export function Unsent() {
  const [taps, setTaps] = useState<Pending[]>(() => pendingTakes());
  const [sounds, setSounds] = useState<Shelved[]>([]);
  const [problem, setProblem] = useState<unknown>(null);
  const [part, setPart] = useState<number | null>(null);
  const look = async () => {
    setTaps(pendingTakes());
    setSounds(await shelved().catch(() => []));
  };
  useEffect(() => {
    shelved().then(setSounds, () => undefined); // where nothing can be kept, nothing waits
  }, []);
  const all = taps.length + sounds.length;
  if (!all) return null;
  const sendAll = async () => {
    setProblem(null);
    try {
      for (const one of taps) {
        await sendTake(one.pieceId, one.take);
        forgetPending(one.take.client_key);
      }
      for (const one of sounds) {
        setPart(0);
        const sound = await soundOf(one);
        if (sound.size) await sendRecording(one.pieceId, one.asked, sound, setPart);
        await unshelve(one.key);
      }
    } catch (error) {
      setProblem(error);
    }
    setPart(null);
    await look();
    await queryClient.invalidateQueries();
  };
  const discard = async () => {
    for (const one of taps) forgetPending(one.take.client_key);
    for (const one of sounds) await unshelve(one.key);
    await look();
  };
  const words = count(all, sounds.length === all ? "recording" : "take");
  return (
    <div role="status" className="flex flex-wrap items-center gap-5 border-b border-line bg-here px-5 py-2 md:px-8">
      <span>
        {words} on this device {all === 1 ? "is" : "are"} not stored yet.
      </span>
      {part === null ? (
        <>
          <Button look="quiet" onClick={() => void sendAll()}>
            Send {all === 1 ? "it" : "them"} now
          </Button>
          <Button look="quiet" onClick={() => void discard()}>
            Discard
          </Button>
        </>
      ) : (
        <progress value={part} max={1} aria-label="Sent so far" />
      )}
      {problem ? <Problem error={problem} /> : null}
    </div>
  );
}
