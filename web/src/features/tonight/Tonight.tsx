/** Tonight: a student's own page, made for a phone on a music stand. At most three things, one of them large, and one
 * button. For a parent the same in sentences: how long, what, and by what one hears that it is done. */
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";

import type { Schemas } from "../../api/client";
import { useCounts, usePiece } from "../../api/queries/pieces";
import { useTonight } from "../../api/queries/students";
import { useMe } from "../../api/me";
import { count } from "../../lib/words";
import { RulerView } from "../../ruler/RulerView";
import { ProblemPlace, WayOut } from "../../ui/ProblemPlace";
import { Titled } from "../../ui/Titled";
import { Button, Dot, LoadingPlace } from "../../ui/kit";
import { BeatNote } from "../../ui/Tempo";

type Thing = Schemas["ThingPublic"];
type Shown = Schemas["TonightPublic"];

export function Tonight() {
  const id = Number(useParams().studentId);
  const found = useTonight(id);
  const me = useMe();
  const [search] = useSearchParams();
  if (found.error) {
    return (
      <ProblemPlace title="This page cannot be shown" error={found.error}>
        {me.student_id === null ? <WayOut to="/students">To the students</WayOut> : null}
      </ProblemPlace>
    );
  }
  if (!found.data) return <LoadingPlace title="Tonight" what="Looking what is for tonight" />;
  const shownFor = search.get("for") ?? (me.role === "parent" ? "parent" : "student");
  const isParent = shownFor === "parent";
  return (
    <main id="main" className="mx-auto max-w-xl px-4 pt-5 pb-32">
      <Titled title={`Tonight · ${found.data.student}`} />
      {found.data.things.length === 0 ? (
        <Nothing shown={found.data} />
      ) : isParent ? (
        <ForParent shown={found.data} />
      ) : (
        <ForStudent shown={found.data} />
      )}
      <p className="mt-8 text-sm">
        {isParent ? (
          <Link className="inline-flex min-h-11 items-center underline" to="?for=student">
            {found.data.student}’s own page
          </Link>
        ) : (
          <Link className="inline-flex min-h-11 items-center underline" to="?for=parent">
            For a parent
          </Link>
        )}
      </p>
    </main>
  );
}

function Nothing({ shown }: { shown: Shown }) {
  return (
    <>
      <p className="text-quiet">Hello {shown.student}</p>
      <h1 tabIndex={-1} className="text-3xl font-bold focus:outline-none">
        {shown.going ? "Enough for today" : "Nothing yet"}
      </h1>
      <p className="mt-3 text-lg">
        {shown.going
          ? "Everything has had its tries, or is done. Play what you like best."
          : "Your teacher has not given you a piece yet."}
      </p>
    </>
  );
}

/** ``bars 2 and 3``, where it is not the whole piece. */
function placeOf({ measures }: Thing): string {
  if (measures === null) return "the whole piece";
  const [first, last] = measures.split("-");
  if (last === undefined) return `bar ${first}`;
  return Number(last) === Number(first) + 1 ? `bars ${first} and ${last}` : `bars ${first} to ${last}`;
}

function ForStudent({ shown }: { shown: Shown }) {
  const [chosen, setChosen] = useState(0);
  const thing = shown.things[Math.min(chosen, shown.things.length - 1)] as Thing;
  const at = shown.things.indexOf(thing);
  const navigate = useNavigate();
  const begin = () => {
    const passage = thing.passage ? { passage: thing.passage } : {};
    const to = {
      student: String(shown.student_id),
      ...passage,
      view: "practise",
      rung: thing.rung,
      tonight: "",
      begin: "",
    };
    void navigate(`/pieces/${thing.piece_id}?${new URLSearchParams(to)}`);
  };
  return (
    <>
      <p className="text-quiet">Hello {shown.student}</p>
      <h1 tabIndex={-1} className="text-3xl font-bold focus:outline-none">
        Tonight: {count(shown.minutes, "minute")}
      </h1>
      <Card thing={thing} number={at + 1} of={shown.things.length} student={shown.student_id} />
      <ol className="mt-3" aria-label="Tonight">
        {shown.things.map((one, index) => (
          <li key={`${one.study_id} ${one.rung}`} className={index === at ? "hidden" : "border-b border-line"}>
            <button
              type="button"
              onClick={() => setChosen(index)}
              className="flex min-h-13 w-full items-baseline gap-3 px-2 py-3 text-left text-lg hover:bg-here"
            >
              <span className="min-w-0 flex-1">
                <b>{one.words}</b>, {placeOf(one)} <span className="block text-base text-quiet">{one.piece}</span>
              </span>
              <span className="text-base whitespace-nowrap text-quiet">{one.minutes} min</span>
            </button>
          </li>
        ))}
      </ol>
      <div className="fixed inset-x-0 bottom-0 z-20 bg-paper px-4 pt-2 pb-4">
        <Button look="strong" className="mx-auto block min-h-16 w-full max-w-xl text-2xl" onClick={begin}>
          Begin
        </Button>
      </div>
    </>
  );
}

type CardProps = { thing: Thing; number: number; of: number; student: number };

function Card({ thing, number, of, student }: CardProps) {
  return (
    <section aria-label="First" className="mt-5 rounded-lg border-2 border-ink bg-card p-4">
      <p className="flex justify-between text-quiet">
        <span>
          {number} of {of} · {count(thing.minutes, "minute")}
        </span>
        <span className="text-lg whitespace-nowrap text-ink">
          <BeatNote quarters={thing.beat_quarters} name="beat" size={20} /> = {thing.bpm}
        </span>
      </p>
      <h2 className="text-2xl font-bold">
        {thing.words}, {placeOf(thing)}
      </h2>
      <p className="text-lg text-quiet">{thing.piece}</p>
      <Bars key={`${thing.piece_id} ${thing.rung}`} thing={thing} student={student} />
      <p className="text-lg">{thing.task}</p>
      {thing.touch ? <p className="mt-2 rounded-lg bg-here px-3 py-2 text-lg">“{thing.touch}”</p> : null}
      <p className="mt-2 flex flex-wrap items-center gap-2">
        {thing.rounds > 1 ? <span>{thing.rounds} times round, without a stop</span> : null}
        {thing.clean.map((isOn, index) => (
          <Dot key={index} isOn={isOn} />
        ))}
        {thing.clean.length ? (
          <span className="sr-only">{thing.clean.filter(Boolean).length} of the last tries were clean</span>
        ) : null}
      </p>
    </section>
  );
}

/** The bars with their count, as large as they can be, and how it is counted in. */
function Bars({ thing, student }: { thing: Thing; student: number }) {
  const piece = usePiece(thing.piece_id).data;
  const counts = useCounts(thing.piece_id, thing.bpm, thing.hands, { student }).data;
  if (!piece) return <div className="h-32" />;
  const isWhole = thing.first === 0 && thing.last === piece.ruler.measures.length - 1;
  const passage = isWhole ? null : { from: thing.first, to: thing.last };
  return (
    <>
      {thing.last - thing.first < 4 ? (
        <RulerView ruler={piece.ruler} counts={counts} hands={thing.hands} only={passage} />
      ) : null}
      {counts ? (
        <p className="my-2">
          <span className="text-quiet">It counts you in: </span>
          <b>{counts.count_in.filter((word) => word !== "&").join(" ")}</b>
        </p>
      ) : null}
    </>
  );
}

const NUMBERS = ["No", "One", "Two", "Three"];

function ForParent({ shown }: { shown: Shown }) {
  const things = shown.things.length;
  return (
    <>
      <p className="text-quiet">For {shown.student}’s parent</p>
      <h1 tabIndex={-1} className="text-3xl font-bold focus:outline-none">
        {count(shown.minutes, "minute")} tonight
      </h1>
      <p className="mt-2 text-lg">
        {NUMBERS[things]} {things === 1 ? "thing" : "things"}. You need not read music: sit by, and listen for what is
        said below.
        {shown.practised_today ? ` ${shown.student} has played today already.` : ""}
      </p>
      <ol className="mt-5 grid gap-5">
        {shown.things.map((one, index) => (
          <li key={`${one.study_id} ${one.rung}`} className="rounded-lg bg-card p-4">
            <h2 className="text-xl font-bold">
              {index + 1}. {one.words}, {placeOf(one)}
            </h2>
            <p className="text-quiet">
              {one.piece} · about {count(one.minutes, "minute")}
            </p>
            <p className="mt-2">{one.task}</p>
            <p className="mt-2">
              <b>Done sounds like this:</b> {one.done}
            </p>
          </li>
        ))}
      </ol>
      <p className="mt-5">
        When it goes wrong three times, it is enough of that; go on to the next. Whatever hurts is a reason to stop.
      </p>
    </>
  );
}
