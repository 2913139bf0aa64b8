/** A piece's takes, newest first. */
import type { ReactNode } from "react";

import { type TakeAsked, useDeleteTake, useTakes } from "../../api/queries/takes";
import { useIsTeacher } from "../../api/me";
import { timeOf } from "../../lib/words";
import { TakeLink } from "../../ui/takes/TakeLink";
import { circumstances, signOf } from "../../ui/takes/takeWords";
import { Button, Loading, Problem } from "../../ui/kit";
import { FileDrop } from "./FileDrop";
import { HeardList } from "./HeardList";
import { KeptRow } from "./KeptRow";

/** ``asked``: what a take from a file would be, as the workspace stands. */
export function TakeList({
  pieceId,
  student,
  asked,
  passageWords,
  demo,
}: {
  pieceId: number;
  /** Whose takes. */
  student: number;
  asked: TakeAsked;
  passageWords: string;
  /** For who is only looking. */
  demo: ReactNode;
}) {
  const takes = useTakes(pieceId, student);
  const remove = useDeleteTake(pieceId);
  const isTeacher = useIsTeacher();
  return (
    <section aria-label="Takes" className="mt-2">
      <h2 className="mb-1 text-lg font-bold">Takes</h2>
      <FileDrop pieceId={pieceId} student={student} asked={asked} passageWords={passageWords} />
      {takes.error ? <Problem error={takes.error} /> : null}
      {takes.isPending ? <Loading what="Fetching the takes" /> : null}
      {takes.data?.length === 0 ? (
        <p className="text-quiet">None yet. Press R, wait for the count-in, and tap or play; or bring a MIDI file.</p>
      ) : null}
      <ul className="divide-y divide-line">
        {takes.data?.map((take) => (
          <KeptRow
            key={take.id}
            id={take.id}
            {...signOf(take)}
            remove={remove}
            what={{ name: `the take of ${timeOf(take.created_at)}`, gone: "The take is removed." }}
          >
            <TakeLink pieceId={pieceId} take={take} />
            <span className="block text-sm text-quiet">{circumstances(take)}</span>
          </KeptRow>
        ))}
      </ul>
      {takes.hasNextPage ? (
        <Button look="quiet" disabled={takes.isFetchingNextPage} onClick={() => void takes.fetchNextPage()}>
          Earlier takes
        </Button>
      ) : null}
      {remove.error ? <Problem error={remove.error} /> : null}
      {isTeacher ? (
        <>
          <HeardList pieceId={pieceId} />
          {demo}
        </>
      ) : null}
    </section>
  );
}
