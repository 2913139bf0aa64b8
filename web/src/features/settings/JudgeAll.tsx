/** All takes judged anew, with the checker and the limits as they are now; what was said before is kept. */
import { useJudgeAll } from "../../api/queries/takes";
import { count } from "../../lib/words";
import { Button, Problem } from "../../ui/kit";

export function JudgeAll() {
  const judge = useJudgeAll();
  return (
    <section aria-label="Takes judged before" className="mb-8">
      <h2 className="mb-2 text-xl font-bold">Takes judged before</h2>
      <p className="mb-2 text-quiet">When the checker has become better, takes it judged earlier can be judged anew. Each keeps what was said of it before.</p>
      <Button disabled={judge.isPending} onClick={() => judge.mutate()}>{judge.isPending ? "Judging …" : "Judge all earlier takes anew"}</Button>
      <p role="status" className="mt-2">
        {judge.data ? (judge.data.judged === 0 ? "All takes are judged by the present checker." : `${count(judge.data.judged, "take")} judged anew; ${judge.data.changed.length ? count(judge.data.changed.length, "verdict") + " changed" : "no verdict changed"}.`) : ""}
      </p>
      {judge.error ? <Problem error={judge.error} /> : null}
    </section>
  );
}
