/** A piece's page: its head, the way to its views, and the view that is open. A view composes; what runs is the
 * application's session. */
import { type ReactNode, Suspense, lazy, useEffect, useRef, useState } from "react";
import { useParams, useSearchParams } from "react-router";

import type { Piece, RungKey, Schemas } from "../../api/client";
import { usePiece, usePlayOptions } from "../../api/queries/pieces";
import { trade } from "../../api/trade";
import { loaded } from "../../lib/loading";
import { keyboards, session } from "../../session/current";
import { ProblemPlace, WayOut } from "../../ui/ProblemPlace";
import { Titled } from "../../ui/Titled";
import { Loading, LoadingPlace } from "../../ui/kit";
import { KeyboardChoice } from "../practice/KeyboardChoice";
import { RoadmapLine } from "../roadmap/RoadmapLine";
import { SayIt, sayWord } from "../voice/SayIt";
import { LadderPlace } from "./LadderPlace";
import { isOnStand } from "./standing";
import { PieceHead } from "./parts";
import { useDesk } from "./useDesk";
import { useDeskKeys } from "./useDeskKeys";

const AskView = lazy(() => loaded(import("../asking/AskView")).then((it) => ({ default: it.AskView })));
const CountView = lazy(() => loaded(import("../counting/CountView")).then((it) => ({ default: it.CountView })));
const EntryView = lazy(() => loaded(import("../entry/EntryView")).then((it) => ({ default: it.EntryView })));
const PencilView = lazy(() => loaded(import("../pencil/PencilView")).then((it) => ({ default: it.PencilView })));
const RoadmapView = lazy(() => loaded(import("../roadmap/RoadmapView")).then((it) => ({ default: it.RoadmapView })));
const OnStand = lazy(() => loaded(import("./OnStand")).then((it) => ({ default: it.OnStand })));
const TogetherView = lazy(() =>
  loaded(import("../together/TogetherView")).then((it) => ({ default: it.TogetherView })),
);
const PlayPlace = lazy(() => loaded(import("./PlayPlace")).then((it) => ({ default: it.PlayPlace })));
const Simulating = lazy(() => loaded(import("./Simulating")).then((it) => ({ default: it.Simulating })));

export function WorkspacePage() {
  const id = Number(useParams().pieceId);
  const piece = usePiece(id);
  const options = usePlayOptions(id);
  const error = piece.error ?? options.error;
  if (error) {
    return (
      <ProblemPlace title="This piece cannot be opened" error={error}>
        <WayOut to="/pieces">Back to the pieces</WayOut>
      </ProblemPlace>
    );
  }
  if (!piece.data || !options.data) return <LoadingPlace title="A piece" what="Opening the piece" />;
  return <Workspace key={id} piece={piece.data} options={options.data} />;
}

const say = (word: string) => sayWord(word, undefined, false);

const VIEWS = [
  ["write", "Write"],
  ["roadmap", "Roadmap"],
  ["pencil", "Pencil"],
  ["count", "Count"],
  ["ask", "Ask"],
  ["together", "Together"],
  ["play", "Play"],
  ["ladder", "Ladder"],
] as const;
type View = (typeof VIEWS)[number][0];

function Workspace({ piece, options }: { piece: Piece; options: Schemas["PlayOptions"] }) {
  const [search, setSearch] = useSearchParams();
  const view: View = VIEWS.find(([key]) => key === search.get("view"))?.[0] ?? "ladder";
  const rung: RungKey = trade().rungs.find(({ key }) => key === search.get("rung"))?.key ?? "count";
  const [simulating, setSimulating] = useState<"take" | "stand-in" | null>(null);
  const desk = useDesk({ piece, options, rung, isPlayView: view === "play" });
  const isAtInstrument = view === "ladder" || view === "play";
  useDeskKeys(desk, { enabled: simulating === null && isAtInstrument, onLadder: view === "ladder" });

  const show = (next: View) => {
    if (!desk.canChoose) session.discard();
    setSearch((old) => new URLSearchParams([...[...old].filter(([name]) => name !== "view"), ["view", next]]), {
      replace: true,
    });
  };
  const chooseRung = (key: RungKey) => {
    if (!desk.idle) session.discard();
    setSearch({ rung: key }, { replace: true });
  };
  const places: Record<View, () => ReactNode> = {
    write: () => (piece.is_entered ? <EntryView piece={piece} bpm={desk.choice.bpm} /> : null),
    roadmap: () => <RoadmapView piece={piece} />,
    pencil: () => <PencilView piece={piece} />,
    count: () => (
      <CountView
        piece={piece}
        bpm={desk.choice.bpm}
        roadmapLine={<RoadmapLine pieceId={piece.id} />}
        sayIt={(word) => <SayIt say={word} />}
      />
    ),
    ask: () => <AskView piece={piece} />,
    together: () => (
      <TogetherView
        piece={piece}
        counts={desk.counts}
        say={say}
        keyboard={<KeyboardChoice keyboards={keyboards} disabled={false} />}
        onPractise={(passage) => {
          desk.choosePassage(passage);
          chooseRung("play");
        }}
      />
    ),
    play: () => <PlayPlace desk={desk} />,
    ladder: () => (
      <LadderPlace desk={desk} onRung={chooseRung} onMore={() => show("play")} onSimulate={setSimulating} />
    ),
  };
  return (
    <main id="main" className="mx-auto max-w-[1480px] px-3 pt-2 pb-[40vh] md:px-8 md:pt-3 xl:pb-13">
      <Titled title={`${piece.title} · ${VIEWS.find(([key]) => key === view)?.[1]}`} />
      <PieceHead piece={piece} />
      <ViewTabs view={view} canWrite={piece.is_entered} onShow={show} />
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

/** One stop of the keyboard; the arrows go from view to view. */
function ViewTabs({ view, canWrite, onShow }: { view: View; canWrite: boolean; onShow: (view: View) => void }) {
  const shown = VIEWS.filter(([key]) => key !== "write" || canWrite);
  const at = shown.findIndex(([key]) => key === view);
  const tabs = useRef<HTMLElement>(null);
  // On a phone there is room for some of them: the open one is among these.
  useEffect(() => {
    tabs.current?.querySelector("[aria-current]")?.scrollIntoView({ block: "nearest", inline: "center" });
  }, [view]);
  return (
    <nav
      ref={tabs}
      aria-label="Views of the piece"
      className="mb-3 flex overflow-x-auto border-b border-line md:mb-5 [@media(max-height:500px)]:mb-2"
      onKeyDown={(event) => {
        const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
        const next = shown[(at + by + shown.length) % shown.length];
        if (!by || !next) return;
        event.preventDefault();
        event.stopPropagation();
        onShow(next[0]);
        event.currentTarget.querySelector<HTMLElement>(`[data-view="${next[0]}"]`)?.focus();
      }}
    >
      {shown.map(([key, words]) => (
        <button
          key={key}
          type="button"
          data-view={key}
          tabIndex={view === key ? 0 : -1}
          aria-current={view === key ? "page" : undefined}
          onClick={() => onShow(key)}
          className={[
            "min-h-10 shrink-0 border-b-3 px-3 max-md:px-2 pointer-coarse:min-h-11 pointer-coarse:min-w-11",
            view === key ? "border-ink font-bold" : "border-transparent text-quiet hover:text-ink",
          ].join(" ")}
        >
          {words}
        </button>
      ))}
    </nav>
  );
}
