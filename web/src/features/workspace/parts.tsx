/** Parts of a piece's workspace: its head, the passage worked on, what the ruler's signs mean. */
import { Link } from "react-router";

import type { Piece, Study } from "../../api/client";
import { useUpdatePiece } from "../../api/queries/pieces";
import { useStudents } from "../../api/queries/students";
import type { Passage } from "../../lib/passage";
import { levels, wordsFor } from "../../api/trade";
import { count } from "../../lib/words";
import { Choice } from "../../ui/Choice";
import { Problem } from "../../ui/kit";
import { useIsTeacher } from "../../api/me";
import { TempoMark } from "../../ui/Tempo";

type HeadProps = {
  piece: Piece;
  study: Study;
  onStudent: (student: number | null) => void;
  /** It was come here from a student's own page. */
  isTonight: boolean;
};

export function PieceHead({ piece, study, onStudent, isTonight }: HeadProps) {
  const update = useUpdatePiece(piece.id);
  const isTeacher = useIsTeacher();
  const whole = piece.ruler.measures.filter((m) => m.bar_in_line > 0).length;
  return (
    <header className="mb-1 flex flex-wrap items-center gap-x-5 gap-y-1 md:mb-2 [@media(max-height:500px)]:mb-0">
      <div className="flex min-w-0 flex-1 flex-wrap items-baseline gap-x-5">
        <h1 tabIndex={-1} className="truncate text-2xl font-bold max-md:text-lg focus:outline-none">
          {piece.title}
        </h1>
        <p className="text-quiet max-md:text-sm [@media(max-height:500px)]:hidden">
          {piece.ruler.measures[0]?.signature} · {count(whole, "bar")} · target{" "}
          <TempoMark beat={piece} bpm={piece.target_bpm} size={16} />
          {piece.composer ? ` · ${piece.composer}` : ""}
          {piece.drill && isTeacher ? (
            <>
              {" · "}
              <Link
                className="underline"
                to={`/drills/${piece.drill.kind}?${new URLSearchParams(piece.drill.options)}`}
              >
                made in Drills
              </Link>
            </>
          ) : null}
        </p>
      </div>
      {isTonight || !isTeacher ? (
        <Link
          to={`/students/${study.student_id}/tonight`}
          className="inline-flex min-h-10 items-center font-semibold underline pointer-coarse:min-h-11"
        >
          Back to tonight
        </Link>
      ) : (
        <WhosePiece study={study} onStudent={onStudent} />
      )}
      <div className="w-72 max-md:hidden [@media(max-height:500px)]:hidden">
        {!isTeacher ? null : study.level === piece.level ? (
          <Choice
            label="Level"
            value={piece.level}
            options={levels()}
            hint="How strictly a take of this piece is judged."
            onChange={(level) => update.mutate({ level })}
          />
        ) : (
          <p className="text-quiet">
            Taught and judged at {study.student}’s level: {wordsFor(levels(), study.level)}
          </p>
        )}
      </div>
      {update.error ? <Problem error={update.error} /> : null}
    </header>
  );
}

/** Whose work it is; nothing, where there is but one student. */
function WhosePiece({ study, onStudent }: Pick<HeadProps, "study" | "onStudent">) {
  const students = useStudents().data ?? [];
  const playing = students.filter((one) => !one.is_paused || one.id === study.student_id);
  if (playing.length < 2) return null;
  return (
    <div className="w-64 max-md:w-full [@media(max-height:500px)]:hidden">
      <Choice
        label="For"
        value={String(study.student_id)}
        options={playing.map((one) => [String(one.id), one.name] as const)}
        onChange={(id) => onStudent(playing.find((one) => String(one.id) === id && !one.is_built_in)?.id ?? null)}
      />
    </div>
  );
}

export function PassageLine({
  piece,
  passage,
  onClear,
}: {
  piece: Piece;
  passage: Passage | null;
  onClear: () => void;
}) {
  if (!passage)
    return (
      <p data-screen-only="" className="mb-2 text-sm text-quiet max-md:hidden [@media(max-height:500px)]:hidden">
        Choose a bar’s number to work on that bar only<span className="max-md:hidden">; hold Shift for several</span>.
      </p>
    );
  const [from, to] = [piece.ruler.measures[passage.from], piece.ruler.measures[passage.to]];
  return (
    <p className="mb-2 text-sm">
      Only{" "}
      {from === to
        ? `bar ${from?.number} (line ${from?.line}, bar ${from?.bar_in_line})`
        : `bars ${from?.number} to ${to?.number}`}
      .{" "}
      <button type="button" className="font-bold underline" onClick={onClear}>
        Whole piece
      </button>
    </p>
  );
}

export function Legend() {
  return (
    <p className="mb-5 flex flex-wrap gap-x-5 gap-y-1 text-sm text-quiet">
      <span>
        <span aria-hidden className="mr-1 inline-block h-3 w-6 rounded-full bg-righthand align-[-1px]" />
        right hand
      </span>
      <span>
        <span aria-hidden className="mr-1 inline-block h-3 w-6 bg-lefthand align-[-1px]" />
        left hand
      </span>
      <span>
        <b className="text-ink">2</b> play
      </span>
      <span>(2) keep holding</span>
      <span>
        <span className="border-t-2 border-quiet">2</span> rest
      </span>
      <span>◇ say it anyway: nothing is played there</span>
      <span>same letter = same rhythm</span>
    </p>
  );
}
