/** A piece's page: its head, the way to its views, and the view that is open. A view composes; what runs is the
 * application's session. */
import { type ReactNode, Suspense, lazy, useCallback, useEffect, useRef, useState } from "react";
import { useParams, useSearchParams } from "react-router";

import type { Activity, Piece, Schemas, Study } from "../../api/client";
import { usePiece, usePlayOptions } from "../../api/queries/pieces";
import { useStudy } from "../../api/queries/studies";
import { activities } from "../../api/trade";
import { loaded } from "../../lib/loading";
import { useIsTeacher, useMe } from "../../api/me";
import { passageNamed } from "../../lib/passage";
import { useWakeLock } from "../../ui/useWakeLock";
import { keyboards, session } from "../../session/current";
import { ProblemPlace, WayOut } from "../../ui/ProblemPlace";
import { Titled } from "../../ui/Titled";
import { Loading, LoadingPlace } from "../../ui/kit";
import type { Cure } from "../practice/Outcome";
import { SayIt, sayWord } from "../voice/SayIt";
import { PlaceTabs } from "./PlaceTabs";
import { PieceHead } from "./parts";
import { OWN_PLACES, type View, placeOf, viewOf } from "./places";
import { isOnStand } from "./standing";
import { type Chosen, useDesk } from "./useDesk";
import { useDeskKeys } from "./useDeskKeys";

const AskView = lazy(() => loaded(() => import("../asking/AskView")).then((it) => ({ default: it.AskView })));
const CountView = lazy(() => loaded(() => import("../counting/CountView")).then((it) => ({ default: it.CountView })));
const Downloads = lazy(() => loaded(() => import("../roadmap/Downloads")).then((it) => ({ default: it.Downloads })));
const KeyboardChoice = lazy(() =>
  loaded(() => import("../practice/KeyboardChoice")).then((it) => ({ default: it.KeyboardChoice })),
);
const RoadmapLine = lazy(() =>
  loaded(() => import("../roadmap/RoadmapLine")).then((it) => ({ default: it.RoadmapLine })),
);
const EntryView = lazy(() => loaded(() => import("../entry/EntryView")).then((it) => ({ default: it.EntryView })));
const PencilView = lazy(() => loaded(() => import("../pencil/PencilView")).then((it) => ({ default: it.PencilView })));
const RoadmapView = lazy(() =>
  loaded(() => import("../roadmap/RoadmapView")).then((it) => ({ default: it.RoadmapView })),
);
const OnStand = lazy(() => loaded(() => import("./OnStand")).then((it) => ({ default: it.OnStand })));
const TogetherPlace = lazy(() =>
  loaded(() => import("../together/TogetherPlace")).then((it) => ({ default: it.TogetherPlace })),
);
const PractisePlace = lazy(() => loaded(() => import("./PractisePlace")).then((it) => ({ default: it.PractisePlace })));
const PlayPlace = lazy(() => loaded(() => import("./PlayPlace")).then((it) => ({ default: it.PlayPlace })));
const TakesPlace = lazy(() => loaded(() => import("./TakesPlace")).then((it) => ({ default: it.TakesPlace })));
const Simulating = lazy(() => loaded(() => import("./Simulating")).then((it) => ({ default: it.Simulating })));

const DENSITIES = ["beat", "bar", "steady"] as const;
const densityOf = (given: string | null | undefined) => DENSITIES.find((one) => one === given) ?? null;

export function WorkspacePage() {
  const id = Number(useParams().pieceId);
  const piece = usePiece(id);
  const options = usePlayOptions(id);
  const [search] = useSearchParams();
  const passage = search.get("passage") ?? "";
  const me = useMe();
  const student = me.student_id ?? whoseOf(search);
  const study = useStudy(id, passage, student);
  const error = piece.error ?? options.error ?? study.error;
  if (error) {
    return (
      <ProblemPlace title="This piece cannot be opened" error={error}>
        <WayOut to="/pieces">Back to the pieces</WayOut>
      </ProblemPlace>
    );
  }
  if (!piece.data || !options.data || !study.data) return <LoadingPlace title="A piece" what="Opening the piece" />;
  return <Workspace key={`${id} ${passage} ${student}`} piece={piece.data} options={options.data} study={study.data} />;
}

const ofWhom = (search: URLSearchParams) => {
  const student = whoseOf(search);
  return student === null ? {} : { student: String(student) };
};

/** What of the address stays when another rung or another doing is gone to: whose ladder it is, of which bars. */
const KEPT = new Set(["passage", "student", "tonight"]);

/** Whose study the address names; null: nobody's. */
function whoseOf(search: URLSearchParams): number | null {
  const named = Number(search.get("student") ?? NaN);
  return Number.isInteger(named) && named > 0 ? named : null;
}

const say = (word: string) => sayWord(word, undefined, false);

type WorkspaceProps = { piece: Piece; options: Schemas["PlayOptions"]; study: Study };

/** What is practised: as the address says, else the rung that is next, else the highest. */
function chosenOf(study: Study, search: URLSearchParams, isPlayView: boolean): Chosen {
  const free = activities().find(({ key }) => key === search.get("free"))?.key;
  if (free) return { free };
  if (isPlayView) return { free: "play" };
  const named = study.rungs.find((one) => one.key === search.get("rung"));
  const rung = named ?? study.rungs.find((one) => one.key === study.now) ?? study.rungs.at(-1);
  return rung ? { rung } : { free: "play" };
}

function Workspace({ piece, options, study }: WorkspaceProps) {
  const [search, setSearch] = useSearchParams();
  const isTeacher = useIsTeacher();
  const asked = viewOf(search.get("view"));
  const view = isTeacher || OWN_PLACES.includes(placeOf(asked)) ? asked : "practise";
  const [simulating, setSimulating] = useState<"take" | "stand-in" | null>(null);
  const desk = useDesk({
    piece,
    options,
    study,
    chosen: chosenOf(study, search, view === "play"),
    isPlayView: view === "play",
  });
  const isPractising = view === "practise";
  useWakeLock(desk.state.phase !== "idle");

  const show = (next: View) => {
    if (!desk.canChoose) session.discard();
    setSearch((old) => new URLSearchParams([...[...old].filter(([name]) => name !== "view"), ["view", next]]), {
      replace: true,
    });
  };
  /** To another rung or another doing, on the same ladder. */
  const go = useCallback(
    (to: { rung: string } | { free: string }) =>
      setSearch((old) => new URLSearchParams([...[...old].filter(([name]) => KEPT.has(name)), ...Object.entries(to)]), {
        replace: true,
      }),
    [setSearch],
  );
  const chooseRung = (key: string) => {
    if (!desk.idle) session.discard();
    go({ rung: key });
  };
  const chooseFree = (key: Activity) => {
    if (!desk.idle) session.discard();
    go({ free: key });
  };
  /** To the ladder of some bars, or (empty) of all of the piece. */
  const choosePassage = (measures: string) => {
    if (!desk.idle) session.discard();
    setSearch((old) => ({ ...ofWhom(old), ...(measures ? { passage: measures } : {}) }), { replace: true });
  };
  /** To the same piece of another student; null: of the one that came with the studio. */
  const chooseStudent = (to: number | null) => {
    if (!desk.idle) session.discard();
    setSearch((old) => ({ view: old.get("view") ?? "practise", ...(to === null ? {} : { student: String(to) }) }), {
      replace: true,
    });
  };
  const { startNext, workOn } = desk;
  /** What the checker advises is set up and begun: what to do, the bars or a spot of them, the hands, tempo and counting that it names. */
  const doCure = (cure: Cure) => {
    if (cure.code === "line-up") return show("together");
    const activity = (cure.rung as Activity | null) ?? desk.settings.activity;
    const passage = cure.measures ? passageNamed(piece.ruler.measures, cure.measures) : desk.passage;
    const hands = (cure.hands as typeof desk.hands | null) ?? desk.hands;
    const density = densityOf(cure.density);
    workOn({ passage, hand: hands, bpm: cure.bpm ?? desk.bpm, within: cure.within ?? null, density });
    go({ free: activity });
    startNext();
  };
  // What the page of a take advises comes in the address: bars, hands and tempo of what is practised freely, and
  // whether it is counted in at once.
  const told = useRef("");
  useEffect(() => {
    const [bars, hand, bpm] = ["bars", "hands", "bpm"].map((name) => search.get(name));
    const advised = bars || hand || bpm ? search.toString() : "";
    // The address gives way later than what it says is set: it is followed once, else it would begin again and again.
    const isNew = advised !== told.current;
    told.current = advised;
    if (!advised || !isNew) return;
    workOn({
      passage: bars ? passageNamed(piece.ruler.measures, bars) : null,
      hand: hand === "right" || hand === "left" ? hand : "both",
      bpm: Number(bpm) || desk.bpm,
      within: search.get("within"),
      density: densityOf(search.get("density")),
    });
    if (search.has("begin")) startNext();
    go({ free: search.get("free") ?? "play" });
  });
  // What is begun from a student's own page begins at once, at its rung.
  const begins = search.has("begin") ? search.get("rung") : null;
  useEffect(() => {
    if (begins === null || desk.rung?.key !== begins || !desk.idle) return;
    setSearch((old) => new URLSearchParams([...old].filter(([name]) => name !== "begin")), { replace: true });
    if (desk.rung.activity !== null && desk.rung.stage !== "count") session.record(desk.choice.rounds);
    else if (desk.rung.stage !== "line-up") session.play();
  }, [begins, desk.rung, desk.idle, desk.choice.rounds, setSearch]);
  // A session that goes from rung to rung by itself takes the screen along.
  const { rung: practised, phase } = desk.state;
  const shown = desk.rung?.key ?? null;
  useEffect(() => {
    if (phase === "idle" || practised === null || shown === null || practised === shown) return;
    go({ rung: practised });
  }, [phase, practised, shown, go]);
  useDeskKeys(desk, {
    enabled: simulating === null && placeOf(view).key === "practise",
    onLadder: isPractising,
    onCure: doCure,
  });

  const places: Record<View, () => ReactNode> = {
    write: () => (piece.is_entered ? <EntryView piece={piece} bpm={desk.choice.bpm} /> : null),
    roadmap: () => (
      <>
        <RoadmapView piece={piece} />
        <Downloads piece={piece} />
      </>
    ),
    pencil: () => <PencilView piece={piece} />,
    count: () => (
      <CountView
        piece={piece}
        bpm={desk.choice.bpm}
        roadmapLine={
          <Suspense>
            <RoadmapLine pieceId={piece.id} />
          </Suspense>
        }
        sayIt={(word) => <SayIt say={word} />}
      />
    ),
    ask: () => <AskView piece={piece} />,
    together: () => (
      <TogetherPlace
        piece={piece}
        study={study}
        counts={desk.counts}
        say={say}
        keyboard={
          <Suspense>
            <KeyboardChoice keyboards={keyboards} disabled={false} />
          </Suspense>
        }
        onPractise={({ from_bar, to_bar, within }) => {
          const passage = { from: from_bar, to: to_bar };
          workOn({ passage, hand: "both", bpm: desk.choice.bpm, within });
          chooseFree("play");
        }}
        onRung={chooseRung}
      />
    ),
    play: () => <PlayPlace desk={desk} />,
    practise: () => (
      <PractisePlace
        desk={desk}
        onRung={chooseRung}
        onFree={chooseFree}
        onCure={doCure}
        onMore={() => show("play")}
        onLineUp={() => show("together")}
        onPassage={choosePassage}
      />
    ),
    takes: () => <TakesPlace desk={desk} onSimulate={setSimulating} />,
  };
  return (
    <main id="main" className="mx-auto max-w-[1480px] px-3 pt-2 pb-[40vh] md:px-8 md:pt-3 xl:pb-13">
      <Titled title={`${piece.title} · ${placeOf(view).words}`} />
      <PieceHead piece={piece} study={study} onStudent={chooseStudent} isTonight={search.has("tonight")} />
      <PlaceTabs view={view} canWrite={piece.is_entered} onShow={show} />
      {isOnStand(desk) ? (
        <Suspense>
          <OnStand desk={desk} />
        </Suspense>
      ) : (
        <Suspense fallback={<Loading what="Opening" />}>{places[view]()}</Suspense>
      )}
      {simulating ? (
        <Suspense>
          <Simulating desk={desk} what={simulating} onClose={() => setSimulating(null)} />
        </Suspense>
      ) : null}
    </main>
  );
}
