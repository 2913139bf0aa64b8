/** A piece's workspace: ladder, ruler, and the card of the rung one stands on. */
import { useEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";

import { type Piece, type RungKey, api, unwrap } from "../../api/client";
import { useCounts, usePiece, useSendTake, useSimulateTake, useUpdatePiece } from "../../api/queries";
import { LEVELS, count } from "../../lib/words";
import { type RulerHandle, RulerView } from "../../ruler/RulerView";
import { Player } from "../../sound/player";
import { BeatNote, Choice, Loading, Problem } from "../../ui/kit";
import { TakeList } from "../takes/TakeList";
import { CountPanel } from "../counting/CountPanel";
import { CountView } from "../counting/CountView";
import { RoadmapLine } from "../counting/RoadmapLine";
import { RoadmapView } from "../counting/RoadmapView";
import { AskView } from "../asking/AskView";
import { EntryView } from "../entry/EntryView";
import { PencilView } from "../pencil/PencilView";
import { LadderView } from "./LadderView";
import { type CardChoice, RungCard } from "./RungCard";
import { SimulateDialog } from "./SimulateDialog";
import { TapZones } from "./TapZones";
import { PracticeSession } from "./session";
import { useKeys } from "./useKeys";

export function WorkspacePage() {
  const id = Number(useParams().pieceId);
  const piece = usePiece(id);
  if (piece.error) return <main className="p-6"><Problem error={piece.error}><Link className="underline" to="/pieces">Back to the pieces</Link></Problem></main>;
  if (!piece.data) return <Loading what="Opening the piece" />;
  return <Workspace key={id} piece={piece.data} />;
}

type Passage = { from: number; to: number };

function Workspace({ piece }: { piece: Piece }) {
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const view = VIEWS.find(([key]) => key === search.get("view"))?.[0] ?? "ladder";
  const rungKey: RungKey = search.get("rung") === "lap" ? "lap" : "count";
  const rung = piece.rungs.find((one) => one.key === rungKey) ?? piece.rungs[0];
  const [choice, setChoice] = useChoice(piece);
  const [passage, setPassage] = useState<Passage | null>(null);
  const [simulating, setSimulating] = useState(false);
  const ruler = useRef<RulerHandle>(null);
  const counts = useCounts(piece.id, choice.bpm, choice.hand);
  const simulate = useSimulateTake(piece.id);
  const send = useSendTake(piece.id);
  const [session] = useState(() => new PracticeSession(new Player()));
  const state = useSyncExternalStore(session.subscribe, session.snapshot);

  const measures = useMemo(() => passageName(piece, passage), [piece, passage]);
  const settings = useMemo(
    () => ({ rung: rungKey, bpm: choice.bpm, hands: choice.hand, measures }),
    [rungKey, choice, measures],
  );
  const { mutateAsync: sendTake } = send;
  useEffect(() => {
    session.configure({
      pieceId: piece.id,
      settings,
      sounding: { clickThrough: choice.clickThrough, knocks: choice.knocks },
      loadSchedule: () => {
        const query = { bpm: settings.bpm, hands: settings.hands, click_counts: rungKey === "count", ...(measures ? { measures } : {}) };
        return unwrap(api.GET("/api/pieces/{piece_id}/schedule", { params: { path: { piece_id: piece.id }, query } }));
      },
      sendTake,
      onCursor: (onset) => ruler.current?.moveCursor(onset),
    });
  }, [session, piece.id, settings, choice, measures, rungKey, sendTake]);
  useEffect(() => () => session.discard(), [session]);

  const idle = state.phase === "idle";
  const move = (by: number) => setPassage((old) => {
    const last = piece.ruler.measures.length - 1;
    const length = old ? old.to - old.from : 0;
    const from = old ? Math.max(0, Math.min(last - length, old.from + by)) : by > 0 ? 0 : last;
    return { from, to: from + length };
  });
  useKeys({
    enabled: !simulating && view === "ladder",
    onSpace: () => (idle ? session.play() : session.stop()),
    onRecord: () => { if (idle) session.record(choice.rounds); },
    onTap: (hand, stamp) => session.tap(hand, stamp),
    onArrow: (by) => { if (idle) move(by); },
    onEscape: () => { if (idle) setPassage(null); else session.discard(); },
  });

  const onBar = (index: number, extend: boolean) => {
    if (!idle) return;
    setPassage((old) => {
      if (extend && old) return { from: Math.min(old.from, index), to: Math.max(old.to, index) };
      return old && old.from === index && old.to === index ? null : { from: index, to: index };
    });
  };

  const show = (next: string) => {
    session.discard();
    setSearch((old) => { const changed = new URLSearchParams(old); changed.set("view", next); return changed; }, { replace: true });
  };
  const live = state.phase === "recording" || state.phase === "between";
  if (!rung) return null;
  return (
    <main className="mx-auto max-w-[1480px] px-4 pt-3 pb-[60vh] md:px-6 md:pb-24">
      <PieceHead piece={piece} />
      <nav aria-label="Views of the piece" className="mb-4 flex flex-wrap gap-1 border-b border-line">
        {VIEWS.filter(([key]) => key !== "write" || piece.is_entered).map(([key, words]) => (
          <button key={key} type="button" aria-current={view === key ? "page" : undefined} onClick={() => show(key)}
            className={`-mb-px rounded-t-md border border-b-0 px-4 py-1.5 max-md:px-2.5 ${view === key ? "border-line bg-card font-bold" : "border-transparent text-quiet hover:text-ink"}`}>
            {words}
          </button>
        ))}
      </nav>
      {view === "roadmap" ? <RoadmapView piece={piece} /> : null}
      {view === "count" ? <CountView piece={piece} bpm={choice.bpm} /> : null}
      {view === "write" && piece.is_entered ? <EntryView piece={piece} bpm={choice.bpm} /> : null}
      {view === "pencil" ? <PencilView piece={piece} /> : null}
      {view === "ask" ? <AskView piece={piece} /> : null}
      {view === "ladder" ? (
      <div className="grid gap-x-6 gap-y-4 md:grid-cols-[176px_minmax(0,1fr)] xl:grid-cols-[176px_minmax(0,1fr)_304px]">
        <LadderView rungs={piece.rungs} current={rungKey} onChoose={(key) => { session.discard(); setSearch({ rung: key }, { replace: true }); }} />
        <div className="min-w-0 max-md:order-2 md:max-xl:order-3 md:max-xl:col-span-2">
          <Passage piece={piece} passage={passage} onClear={() => setPassage(null)} />
          <RoadmapLine pieceId={piece.id} />
          <RulerView ruler={piece.ruler} counts={counts.data} hands={choice.hand} passage={passage} onBar={onBar} handle={ruler} />
          {counts.error ? <Problem error={counts.error} /> : null}
          <Legend />
          {counts.data ? (
            <CountPanel pieceId={piece.id} bpm={choice.bpm} counts={counts.data} disabled={!idle}
              onBar={(onset) => { const bar = piece.ruler.measures.findLast((m) => m.start_quarters <= onset); if (bar) ruler.current?.showBar(bar.start_quarters); }} />
          ) : null}
          <TakeList pieceId={piece.id} />
          <Downloads piece={piece} bpm={choice.bpm} />
        </div>
        <div className="min-w-0 max-md:order-3 md:max-xl:order-2 xl:col-start-3">
          <div data-covers={live ? "" : undefined} className={`sticky top-3 ${live ? "max-md:fixed max-md:inset-x-0 max-md:top-auto max-md:bottom-0 max-md:z-10 max-md:bg-paper max-md:p-3" : ""}`}>
            {live ? <LiveTake session={session} state={state} single={rungKey === "count"} /> : (
              <RungCard piece={piece} rung={rung} counts={counts.data} choice={choice} onChoice={setChoice}
                passageWords={passage ? (passage.from === passage.to ? "bar " : "bars ") + measures?.replace("-", "–") : "whole piece"}
                session={session} state={state} onSimulate={() => { simulate.reset(); setSimulating(true); }} />
            )}
          </div>
        </div>
      </div>
      ) : null}
      <SimulateDialog piece={piece} open={simulating} busy={simulate.isPending} problem={simulate.error} onClose={() => setSimulating(false)}
        onPlay={(faults) => simulate.mutate({ ...settings, faults }, {
          onSuccess: (take) => { setSimulating(false); void navigate(`/pieces/${piece.id}/takes/${take.id}`); },
        })} />
    </main>
  );
}

const VIEWS = [["write", "Write"], ["roadmap", "Roadmap"], ["pencil", "Pencil"], ["count", "Count"], ["ask", "Ask"], ["ladder", "Ladder"]] as const;

function passageName(piece: Piece, passage: Passage | null): string | null {
  if (!passage) return null;
  const [from, to] = [piece.ruler.measures[passage.from], piece.ruler.measures[passage.to]];
  if (!from || !to) return null;
  return from === to ? from.number : `${from.number}-${to.number}`;
}

/** Tempo, hands and the rest stay as they were left, a piece. */
function useChoice(piece: Piece) {
  const key = `laptick.choice.${piece.id}`;
  const [choice, set] = useState<CardChoice>(() => {
    const start: CardChoice = { bpm: piece.start_bpm, hand: "both", rounds: 1, clickThrough: true, knocks: "both" };
    try {
      return { ...start, ...(JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<CardChoice>) };
    } catch {
      return start;
    }
  });
  const change = (part: Partial<CardChoice>) => set((old) => {
    const next = { ...old, ...part };
    try {
      localStorage.setItem(key, JSON.stringify(next));
    } catch {
      // Remembering is a comfort; without it the choice still holds for this visit.
    }
    return next;
  });
  return [choice, change] as const;
}

function PieceHead({ piece }: { piece: Piece }) {
  const update = useUpdatePiece(piece.id);
  const whole = piece.ruler.measures.filter((m) => m.bar_in_line > 0).length;
  return (
    <header className="mb-4 flex flex-wrap items-end gap-x-6 gap-y-2">
      <div>
        <h1 className="text-3xl font-bold">{piece.title}</h1>
        <p className="text-quiet">
          {piece.ruler.measures[0]?.signature} · {count(whole, "bar")} · target <BeatNote quarters={piece.beat_quarters} name={piece.beat_name} size={16} /> = {piece.target_bpm}
          {piece.composer ? ` · ${piece.composer}` : ""}
        </p>
      </div>
      <div className="ml-auto flex items-center gap-3">
        <Choice label="Judged as" value={piece.level} options={LEVELS} onChange={(level) => update.mutate({ level })} />
      </div>
      {update.error ? <Problem error={update.error} /> : null}
    </header>
  );
}

function Passage({ piece, passage, onClear }: { piece: Piece; passage: Passage | null; onClear: () => void }) {
  if (!passage) return <p className="mb-2 text-sm text-quiet">Choose a bar’s number to work on that bar only<span className="max-md:hidden">; hold Shift for several</span>.</p>;
  const [from, to] = [piece.ruler.measures[passage.from], piece.ruler.measures[passage.to]];
  return (
    <p className="mb-2 text-sm">
      Only {from === to ? `bar ${from?.number} (line ${from?.line}, bar ${from?.bar_in_line})` : `bars ${from?.number} to ${to?.number}`}.{" "}
      <button type="button" className="font-bold underline" onClick={onClear}>Whole piece</button>
    </p>
  );
}

function Legend() {
  return (
    <p className="mb-4 flex flex-wrap gap-x-5 gap-y-1 text-sm text-quiet">
      <span><span aria-hidden className="mr-1 inline-block h-3 w-6 rounded-full bg-righthand align-[-1px]" />right hand</span>
      <span><span aria-hidden className="mr-1 inline-block h-3 w-6 bg-lefthand align-[-1px]" />left hand</span>
      <span><b className="text-ink">2</b> strike</span>
      <span>(2) hold</span>
      <span><span className="border-t-2 border-quiet">2</span> rest</span>
      <span>◇ say it anyway: nothing is played there</span>
      <span>same letter = same rhythm</span>
    </p>
  );
}

/** The piece as files: with its counts as lyrics, as MIDI in playing order, as a table. */
function Downloads({ piece, bpm }: { piece: Piece; bpm: number }) {
  const forms = [
    ["format=musicxml&counts=true", "score with the count as lyrics (MusicXML)"],
    ["format=mxl&counts=true", "the same, compressed (.mxl)"],
    ["format=mid", "as it is played (MIDI)"],
    ["format=csv", "the counts as a table (CSV)"],
  ] as const;
  return (
    <details className="mt-6">
      <summary className="cursor-pointer font-bold">Take it with you</summary>
      <ul className="mt-2 space-y-1 text-sm">
        {forms.map(([query, words]) => (
          <li key={query}><a className="underline" href={`/api/pieces/${piece.id}/export?${query}`} download>{words}</a></li>
        ))}
        {(["wav", "mid"] as const).map((format) => (
          <li key={format}><a className="underline" href={`/api/pieces/${piece.id}/sound?bpm=${bpm}&format=${format}`} download>{`the play-along at ${bpm}: count-in, click and both rhythms (${format === "wav" ? "WAV" : "MIDI"})`}</a></li>
        ))}
        <li><a className="underline" href={`/api/pieces/${piece.id}/original`} download>the file as it came</a></li>
      </ul>
    </details>
  );
}

function LiveTake({ session, state, single }: { session: PracticeSession; state: ReturnType<PracticeSession["snapshot"]>; single: boolean }) {
  return (
    <section aria-label="Recording" className="rounded-xl border-2 border-ink bg-card p-4">
      <p className="flex items-baseline justify-between">
        <span className="text-lg font-bold">{state.phase === "between" ? "Next round is counted in …" : state.saying !== null ? "Count in" : "Tap now"}</span>
        {state.rounds > 1 ? <span className="text-quiet">round {state.round} of {state.rounds}</span> : null}
      </p>
      <p className="my-2 text-center text-5xl font-bold max-md:text-3xl" aria-live="off">
        {state.phase === "between" ? (state.take?.verdict.status === "steady" ? "●" : "◐") : (state.saying ?? count(state.taps, "tap"))}
      </p>
      <TapZones session={session} state={state} single={single} />
      <p className="mt-3 text-sm text-quiet">Silence ends the take. <span className="max-md:hidden"><kbd>Space</kbd> ends it now, <kbd>Esc</kbd> throws it away.</span></p>
      <div className="mt-2 flex gap-4">
        <button type="button" className="font-bold underline" onClick={() => session.stop()}>End it</button>
        <button type="button" className="underline" onClick={() => session.discard()}>Throw it away</button>
      </div>
    </section>
  );
}
