/** Takes and recordings that wait on this device because the server does not have them: sent or discarded here. */
import { useEffect, useState } from "react";

import { queryClient } from "../../api/queries/client";
import { sendTake } from "../../api/queries/takes";
import { useMe } from "../../api/me";
import { count } from "../../lib/words";
import { type Pending, forgetPending, pendingTakes } from "../../session/pending";
import type { Shelved } from "../../session/shelf";
import { Button, Problem } from "../../ui/kit";

/** Only where a recording waits is more than this needed. */
const shelf = () => import("../../session/shelf");
const waiting = () => shelf().then(({ shelved }) => shelved());

export function Unsent() {
  const me = useMe();
  // On a shared device each sends what is their own; the others' waits for them.
  const isMine = (one: { student?: string | undefined }) => me.student_id === null || one.student === me.name;
  const [allTaps, setTaps] = useState<Pending[]>(() => pendingTakes());
  const [allSounds, setSounds] = useState<Shelved[]>([]);
  const [taps, sounds] = [allTaps.filter(isMine), allSounds.filter(isMine)];
  const [problem, setProblem] = useState<unknown>(null);
  const [isSending, setSending] = useState(false);
  const look = async () => {
    setTaps(pendingTakes());
    setSounds(await waiting().catch(() => []));
  };
  useEffect(() => {
    waiting().then(setSounds, () => undefined); // where nothing can be kept, nothing waits
  }, []);
  const all = taps.length + sounds.length;
  if (!all) return null;
  const sendAll = async () => {
    setProblem(null);
    setSending(true);
    try {
      for (const one of taps) {
        await sendTake(one.pieceId, one.take);
        forgetPending(one.take.client_key);
      }
      for (const one of sounds) {
        const { soundOf, unshelve } = await shelf();
        const { sendRecording } = await import("../../api/recording");
        const sound = await soundOf(one);
        if (sound.size) await sendRecording(one.pieceId, one.asked, sound);
        await unshelve(one.key);
      }
    } catch (error) {
      setProblem(error);
    }
    setSending(false);
    await look();
    await queryClient.invalidateQueries();
  };
  const discard = async () => {
    for (const one of taps) forgetPending(one.take.client_key);
    for (const one of sounds) await (await shelf()).unshelve(one.key);
    await look();
  };
  const words = count(all, sounds.length === all ? "recording" : "take");
  const whose = [...new Set([...taps, ...sounds].map((one) => one.student ?? ""))].filter(Boolean);
  return (
    <div role="status" className="flex flex-wrap items-center gap-5 border-b border-line bg-here px-5 py-2 md:px-8">
      <span>
        {words} on this device {all === 1 ? "is" : "are"} not stored yet
        {whose.length ? ` (${new Intl.ListFormat("en").format(whose)})` : ""}.
      </span>
      <Button look="quiet" disabled={isSending} onClick={() => void sendAll()}>
        {isSending ? "Sending …" : `Send ${all === 1 ? "it" : "them"} now`}
      </Button>
      <Button look="quiet" disabled={isSending} onClick={() => void discard()}>
        Discard
      </Button>
      {problem ? <Problem error={problem} /> : null}
    </div>
  );
}
