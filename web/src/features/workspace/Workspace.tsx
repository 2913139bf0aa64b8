/** A piece's page: its head, the way to its views, and the view that is open. A view composes; what runs is the
 * application's session. */
import { type ReactNode, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";

import type { Piece, RungKey, Schemas } from "../../api/client";
import { usePiece, usePlayOptions } from "../../api/queries/pieces";
import { trade } from "../../api/trade";
import { session } from "../../session/current";
import { Loading, Problem } from "../../ui/kit";
import { AskView } from "../asking/AskView";
import { CountView } from "../counting/CountView";
import { EntryView } from "../entry/EntryView";
import { PencilView } from "../pencil/PencilView";
import { RoadmapLine } from "../roadmap/RoadmapLine";
import { RoadmapView } from "../roadmap/RoadmapView";
import { SayIt } from "../voice/SayIt";
import { LadderPlace } from "./LadderPlace";
import { PlayPlace } from "./PlayPlace";
import { Simulating } from "./Simulating";
import { PieceHead } from "./parts";
import { useDesk } from "./useDesk";
import { useDeskKeys } from "./useDeskKeys";

export function WorkspacePage() {
  const id = Number(useParams().pieceId);
  const piece = usePiece(id);
  const options = usePlayOptions(id);
  const error = piece.error ?? options.error;
  if (error) {
    return (
      <main className="p-6">
        <Problem error={error}>
          <Link className="underline" to="/pieces">
            Back to the pieces
          </Link>
        </Problem>
      </main>
    );
  }
  if (!piece.data || !options.data) return <Loading what="Opening the piece" />;
  return <Workspace key={id} piece={piece.data} options={options.data} />;
}

const VIEWS = [
  ["write", "Write"],
  ["roadmap", "Roadmap"],
  ["pencil", "Pencil"],
  ["count", "Count"],
  ["ask", "Ask"],
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
    play: () => <PlayPlace desk={desk} />,
    ladder: () => (
      <LadderPlace desk={desk} onRung={chooseRung} onMore={() => show("play")} onSimulate={setSimulating} />
    ),
  };
  return (
    <main className="mx-auto max-w-[1480px] px-4 pt-3 pb-[60vh] md:px-6 md:pb-24">
      <PieceHead piece={piece} />
      <ViewTabs view={view} canWrite={piece.is_entered} onShow={show} />
      {places[view]()}
      <Simulating desk={desk} what={simulating} onClose={() => setSimulating(null)} />
    </main>
  );
}

function ViewTabs({ view, canWrite, onShow }: { view: View; canWrite: boolean; onShow: (view: View) => void }) {
  return (
    <nav aria-label="Views of the piece" className="mb-4 flex flex-wrap gap-1 border-b border-line max-md:gap-0">
      {VIEWS.filter(([key]) => key !== "write" || canWrite).map(([key, words]) => (
        <button
          key={key}
          type="button"
          aria-current={view === key ? "page" : undefined}
          onClick={() => onShow(key)}
          className={[
            "-mb-px rounded-t-md border border-b-0 px-4 py-1.5 max-md:px-1.5",
            view === key ? "border-line bg-card font-bold" : "border-transparent text-quiet hover:text-ink",
          ].join(" ")}
        >
          {words}
        </button>
      ))}
    </nav>
  );
}
