/** Drills: found by what they train, made by a few choices, looked at at once, practised as a piece like any other. */
import { useMemo, useState } from "react";
import { NavLink, Navigate, useNavigate, useParams, useSearchParams } from "react-router";

import type { Schemas } from "../../api/client";
import { type DrillWanted, useDrill, useDrillKinds, useKeepDrill } from "../../api/queries/drills";
import { usePieces } from "../../api/queries/pieces";
import { RulerView } from "../../ruler/RulerView";
import { meetingNames } from "../../ruler/layout";
import { Choice } from "../../ui/Choice";
import { ProblemPlace, WayOut } from "../../ui/ProblemPlace";
import { Titled } from "../../ui/Titled";
import { Button, Loading, LoadingPlace, Problem } from "../../ui/kit";
import { type Chosen, Fields, isAsked } from "./Fields";

type Kind = Schemas["DrillKind"];
type Look = Schemas["DrillPublic"];

export function Drills() {
  const kinds = useDrillKinds();
  const { kind: key } = useParams();
  const navigate = useNavigate();
  if (kinds.error) {
    return (
      <ProblemPlace title="Drills cannot be made" error={kinds.error}>
        <WayOut to="/pieces">Back to the pieces</WayOut>
      </ProblemPlace>
    );
  }
  if (!kinds.data) return <LoadingPlace title="Drills" what="Fetching what can be made" />;
  const kind = kinds.data.find((one) => one.key === key);
  const [first] = kinds.data;
  if (!kind) return first ? <Navigate to={`/drills/${first.key}`} replace /> : null;
  return (
    <main id="main" className="mx-auto max-w-[1480px] px-3 pt-3 pb-13 md:px-8">
      <Titled title={`Drills · ${kind.title}`} />
      <h1 tabIndex={-1} className="text-2xl font-bold focus:outline-none">
        Drills
      </h1>
      <div className="mt-3 grid gap-x-8 gap-y-4 md:grid-cols-[240px_minmax(0,1fr)]">
        <div className="md:hidden">
          <Choice
            label="They train"
            value={kind.key}
            options={kinds.data.map((one) => [one.key, one.title] as const)}
            onChange={(next) => void navigate(`/drills/${next}`)}
          />
        </div>
        <nav aria-label="What they train" className="max-md:hidden">
          <ul className="grid gap-1">
            {kinds.data.map((one) => (
              <li key={one.key}>
                <NavLink
                  to={`/drills/${one.key}`}
                  className={({ isActive }) =>
                    [
                      "block min-h-11 rounded-lg px-3 py-2",
                      isActive ? "bg-card shadow-[inset_0_0_0_2px_var(--color-ink)]" : "hover:bg-here",
                    ].join(" ")
                  }
                >
                  <span className="block font-bold">{one.title}</span>
                  <span className="block text-sm text-quiet">{one.trains}</span>
                </NavLink>
              </li>
            ))}
          </ul>
        </nav>
        <Making key={kind.key} kind={kind} />
      </div>
    </main>
  );
}

/** What is of another piece, or of other bars, is forgotten with them. */
const FORGETS: Readonly<Record<string, readonly string[]>> = { of: ["measures", "within"], measures: ["within"] };

function Making({ kind }: { kind: Kind }) {
  const pieces = usePieces();
  const navigate = useNavigate();
  const keep = useKeepDrill();
  const [search, setSearch] = useSearchParams();
  const shelf = pieces.data ?? [];
  // What was chosen stands in the address, so that a drill can be come back to, and led to from elsewhere.
  const values: Chosen = Object.fromEntries(
    kind.options.map(
      (one) => [one.key, search.get(one.key) ?? (one.is_needed ? String(shelf[0]?.id ?? "") : one.usual)] as const,
    ),
  );
  const asked = kind.options.filter((one) => isAsked(one, values));
  const wanted: DrillWanted = {
    kind: kind.key,
    options: Object.fromEntries(
      asked.map(({ key }) => [key, values[key] ?? ""] as const).filter(([, value]) => value !== ""),
    ),
  };
  const isReady = asked.every((one) => !one.is_needed || wanted.options[one.key] !== undefined);
  // All of its bars are asked for once somebody wants to see them, and until something else is chosen.
  const [allOf, setAllOf] = useState<string | null>(null);
  const chosen = JSON.stringify(wanted);
  const look = useDrill(wanted, isReady, allOf === chosen ? undefined : FIRST_BARS);
  const isShown = look.data !== undefined && !look.error;
  return (
    <section aria-label={kind.title} className="min-w-0">
      <p className="mb-3 max-w-2xl text-quiet md:hidden">{kind.trains}</p>
      <Fields
        options={kind.options}
        values={values}
        pieces={shelf.map(({ id, title }) => [String(id), title] as const)}
        made={isShown ? { roots: look.data.roots.join(" ") } : {}}
        onChange={(key, value) =>
          setSearch(
            (old) =>
              new URLSearchParams([
                ...[...old].filter(([name]) => name !== key && !(FORGETS[key] ?? []).includes(name)),
                [key, value],
              ]),
            { replace: true },
          )
        }
      />
      <Button
        look="strong"
        disabled={!isReady || look.isError || keep.isPending}
        onClick={() => keep.mutate(wanted, { onSuccess: ({ id }) => void navigate(`/pieces/${id}?view=practise`) })}
      >
        Practise it
      </Button>
      <span className="ml-3 text-sm text-quiet">It is kept among the pieces, with a ladder of its own.</span>
      {keep.error ? <Problem error={keep.error} /> : null}
      <div className="mt-5">
        {isReady ? null : <p>There is no piece on the shelf to make it of.</p>}
        {look.error ? <Problem error={look.error} /> : null}
        {look.isLoading ? <Loading what="Making it" /> : null}
        {isShown ? <Shown drill={look.data} onAll={() => setAllOf(chosen)} /> : null}
      </div>
    </section>
  );
}

/** So many bars are enough to see what it is; and a picture of all keys would keep one waiting. */
const FIRST_BARS = 12;

function Shown({ drill, onAll }: { drill: Look; onAll: () => void }) {
  const names = useMemo(() => meetingNames(drill.meetings), [drill.meetings]);
  return (
    <>
      <h2 className="text-xl font-bold">{drill.title}</h2>
      {drill.sentence ? <p className="first-letter:uppercase">{drill.sentence}</p> : null}
      {drill.meetings.length ? (
        <ul aria-label="Where the hands meet" className="mb-2 text-sm text-quiet">
          {drill.meetings.map((one) => (
            <li key={one.onset_quarters}>
              {one.place_text}: right hand {one.right}, left hand {one.left}
              {one.same_key ? ", one key" : ""}
            </li>
          ))}
        </ul>
      ) : null}
      <div className="mt-3">
        <RulerView ruler={drill.ruler} counts={drill.counts} hands="both" names={names} />
      </div>
      {drill.ruler.measures.length < drill.bars ? <Button onClick={onAll}>Show all {drill.bars} bars</Button> : null}
    </>
  );
}
