/** The teacher's word on a take, beside the checker's: never in its place. */
import { useState } from "react";

import type { Schemas, Take, Verdict } from "../../api/client";
import { useOverrule } from "../../api/queries/takes";
import { statusWords } from "../../api/trade";
import { timeOf } from "../../lib/words";
import { Choice } from "../../ui/Choice";
import { Button, Problem } from "../../ui/kit";

type Word = Schemas["OverruleCreate"]["status"];
/** What a teacher can say it is, from the best down. */
const WORDS: readonly Word[] = ["steady", "nearly", "not-yet"];

export function Overrule({ take, said, pieceId }: { take: Take; said: Verdict["status"]; pieceId: number }) {
  const overrule = useOverrule(take.id, pieceId);
  const [status, setStatus] = useState<Word>(said === "steady" ? "not-yet" : "steady");
  const [reason, setReason] = useState("");
  if (take.overrule) {
    return (
      <div className="mt-5 rounded-lg border-2 border-ink p-3">
        <p>
          <b>Your word: {statusWords(take.overrule.status)}.</b> {take.overrule.reason}
        </p>
        <p className="text-sm text-quiet">
          {timeOf(take.overrule.created_at)}; the checker says {statusWords(said)}. Your word counts on the ladder.
        </p>
        <Button look="quiet" disabled={overrule.isPending} onClick={() => overrule.mutate(null)}>
          Take it back
        </Button>
        {overrule.error ? <Problem error={overrule.error} /> : null}
      </div>
    );
  }
  return (
    <details className="mt-5" data-screen-only="">
      <summary className="cursor-pointer py-1 font-bold">You hear it otherwise?</summary>
      <form
        className="mt-2 grid gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (reason.trim()) overrule.mutate({ status, reason: reason.trim() });
        }}
      >
        <Choice
          label="It is"
          value={status}
          options={WORDS.map((word) => [word, statusWords(word)] as const)}
          onChange={setStatus}
        />
        <label className="block">
          <span className="text-quiet">because</span>
          <textarea
            rows={2}
            maxLength={1000}
            required
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            className="mt-1 block w-full rounded-lg border border-edge bg-paper p-2"
          />
        </label>
        <Button type="submit" disabled={overrule.isPending || !reason.trim()}>
          Let it stand beside the figures
        </Button>
        {overrule.error ? <Problem error={overrule.error} /> : null}
      </form>
    </details>
  );
}
