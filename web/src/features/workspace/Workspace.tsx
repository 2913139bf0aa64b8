/** A piece's workspace: ladder, ruler, and the card of the rung one stands on. */
import { useEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";

import { type Piece, type RungKey, type Schemas, api, unwrap } from "../../api/client";
import { useCounts, usePiece, usePlayOptions } from "../../api/queries/pieces";
import { useSendHeard, useSendTake, useSimulateTake } from "../../api/queries/takes";
import { count } from "../../lib/words";
import { type RulerHandle, RulerView } from "../../ruler/RulerView";
import { STAND_IN } from "../../sound/keyboard";
import { Loading, Problem, useToast } from "../../ui/kit";
import { PlayCard, PlayChoices, tapped } from "../play_along/PlayCard";
import { OVER_AND_OVER, TapTempo, queryOf } from "../../session/choice";
import { keyboards, session } from "../../session/current";
import { usePlayChoice, useRestart } from "../../session/usePlaying";
import { CHANNELS } from "../../sound/mix";
import { TakeList } from "../takes/TakeList";
import { CountPanel } from "../counting/CountPanel";
import { CountView } from "../counting/CountView";
import { RoadmapLine } from "../roadmap/RoadmapLine";
import { RoadmapView } from "../roadmap/RoadmapView";
import { AskView } from "../asking/AskView";
import { EntryView } from "../entry/EntryView";
import { PencilView } from "../pencil/PencilView";
import { LadderView } from "../practice/LadderView";
import { type CardChoice, RungCard } from "../practice/RungCard";
import { SimulateDialog } from "../practice/SimulateDialog";
import { TapZones } from "../practice/TapZones";
import { Downloads, Legend, type Passage, PassageLine, PieceHead } from "./parts";
import { type PracticeSession, stateFor } from "../../session/practice";
import { useKeys } from "./useKeys";

export function WorkspacePage() {
  const id = Number(useParams().pieceId);
  const piece = usePiece(id);
  const options = usePlayOptions(id);
  if (piece.error)
    return (
      <main className="p-6">
        <Problem error={piece.error}>
          <Link className="underline" to="/pieces">
            Back to the pieces
          </Link>
        </Problem>
      </main>
    );
  if (options.error)
    return (
      <main className="p-6">
        <Problem error={options.error} />
      </main>
    );
  if (!piece.data || !options.data) return <Loading what="Opening the piece" />;
  return <Workspace key={id} piece={piece.data} options={options.data} />;
}

function Workspace({ piece, options }: { piece: Piece; options: Schemas["PlayOptions"] }) {
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const view = VIEWS.find(([key]) => key === search.get("view"))?.[0] ?? "ladder";
  const rungKey: RungKey = RUNG_KEYS.find((key) => key === search.get("rung")) ?? "count";
  const rung = piece.rungs.find((one) => one.key === rungKey) ?? piece.rungs[0];
  const [choice, setChoice] = useChoice(piece);
  const [play, setPlay] = usePlayChoice(piece.id, options.levels);
  const [tapTempo] = useState(() => new TapTempo());
  const [passage, setPassage] = useState<Passage | null>(null);
  const [simulating, setSimulating] = useState<"take" | "stand-in" | null>(null);
  const ruler = useRef<RulerHandle>(null);
  const counts = useCounts(piece.id, choice.bpm, choice.hand);
  const simulate = useSimulateTake(piece.id);
  const send = useSendTake(piece.id);
  const heard = useSendHeard(piece.id);
  const toast = useToast();
  const state = stateFor(useSyncExternalStore(session.subscribe, session.snapshot), piece.id);

  const measures = useMemo(() => passageName(piece, passage), [piece, passage]);
  const settings = useMemo(
    () => ({ rung: rungKey, bpm: choice.bpm, hands: choice.hand, measures }),
    [rungKey, choice, measures],
  );
  const { mutateAsync: sendTake } = send;
  const { mutateAsync: keepHeard } = heard;
  useEffect(() => {
    session.configure({
      pieceId: piece.id,
      title: piece.title,
      settings,
      mix: play.mix,
      clickThrough: choice.clickThrough,
      loadSchedule: (mode) => {
        const query =
          mode === "playing"
            ? queryOf(view === "play" ? play : { ...play, mode: "play" }, settings.bpm, settings.hands, measures)
            : {
                bpm: settings.bpm,
                hands: settings.hands,
                click_counts: rungKey === "count",
                groove: "none",
                ...(measures ? { measures } : {}),
              };
        return unwrap(api.GET("/api/pieces/{piece_id}/schedule", { params: { path: { piece_id: piece.id }, query } }));
      },
      sendTake,
      sendHeard: async (what) => {
        const kept = await keepHeard(what);
        toast(
          kept.slips.length
            ? `${count(kept.slips.length, "slip")} marked: kept below.`
            : "Nothing marked: kept below as heard without a slip.",
        );
      },
      loadStandIn: async () => {
        if (rungKey !== "play" || keyboards.snapshot().chosen !== STAND_IN.id) return null;
        const notes = await unwrap(
          api.POST("/api/pieces/{piece_id}/stand-in", {
            params: { path: { piece_id: piece.id } },
            body: {
              ...settings,
              faults: choice.standIn?.faults ?? [],
              ...(choice.standIn ? { skill: choice.standIn.skill } : {}),
            },
          }),
        );
        return notes.map((note) => ({
          t: note.t,
          pitch: note.pitch,
          velocity: note.velocity ?? 64,
          released: note.released ?? null,
        }));
      },
      standIn: (data, stamp_ms) => keyboards.standIn(data, stamp_ms),
      onCursor: (onset) => ruler.current?.moveCursor(onset),
    });
  }, [piece, settings, choice, play, view, measures, rungKey, sendTake, keepHeard, toast]);
  useEffect(() => () => session.leave(), []);
  useRestart(
    session,
    state,
    piece.id,
    JSON.stringify({ ...queryOf(play, choice.bpm, choice.hand, measures), cues: null }),
  );

  const idle = state.phase === "idle";
  const move = (by: number) =>
    setPassage((old) => {
      const last = piece.ruler.measures.length - 1;
      const length = old ? old.to - old.from : 0;
      const from = old ? Math.max(0, Math.min(last - length, old.from + by)) : by > 0 ? 0 : last;
      return { from, to: from + length };
    });
  const playing = state.phase === "playing";
  const setBpm = (bpm: number) => setChoice({ bpm });
  const stepTempo = (by: number) => {
    const next =
      by > 0
        ? piece.metronome_marks.find((mark) => mark > choice.bpm)
        : piece.metronome_marks.findLast((mark) => mark < choice.bpm);
    if (next !== undefined) setBpm(next);
  };
  useKeys({
    enabled: simulating === null && (view === "ladder" || view === "play"),
    onSpace: () => (idle ? session.play() : session.stop()),
    onRecord: () => {
      if (idle && view === "ladder") session.record(choice.rounds);
    },
    onTap: (hand, stamp) => (state.phase === "listening" ? session.slip(stamp) : session.tap(hand, stamp)),
    onArrow: (by) => {
      if (idle || playing) move(by);
    },
    onEscape: () => {
      if (idle) setPassage(null);
      else session.discard();
    },
    onTempo: (by) => {
      if (idle || playing) stepTempo(by);
    },
    onKey: (key, stamp) => {
      const channel = CHANNELS[Number(key) - 1];
      if (channel) setPlay({ mix: { ...play.mix, muted: { ...play.mix.muted, [channel]: !play.mix.muted[channel] } } });
      else if (key === "n" && idle && view === "ladder") session.listen();
      else if (key === "t") tapped(tapTempo, stamp, setBpm);
      else if (key === "l") setPlay({ rounds: play.rounds > 1 ? 1 : OVER_AND_OVER });
      else return false;
      return true;
    },
  });

  const onBar = (index: number, extend: boolean) => {
    if (!idle && !playing) return;
    setPassage((old) => {
      if (extend && old) return { from: Math.min(old.from, index), to: Math.max(old.to, index) };
      return old && old.from === index && old.to === index ? null : { from: index, to: index };
    });
  };

  const show = (next: string) => {
    if (!idle && !playing) session.discard();
    setSearch(
      (old) => {
        const changed = new URLSearchParams(old);
        changed.set("view", next);
        return changed;
      },
      { replace: true },
    );
  };
  const passageWords = passage
    ? (passage.from === passage.to ? "bar " : "bars ") + (measures?.replace("-", "–") ?? "")
    : "whole piece";
  const live = state.phase === "recording" || state.phase === "between" || state.phase === "listening";
  if (!rung) return null;
  return (
    <main className="mx-auto max-w-[1480px] px-4 pt-3 pb-[60vh] md:px-6 md:pb-24">
      <PieceHead piece={piece} />
      <nav aria-label="Views of the piece" className="mb-4 flex flex-wrap gap-1 border-b border-line max-md:gap-0">
        {VIEWS.filter(([key]) => key !== "write" || piece.is_entered).map(([key, words]) => (
          <button
            key={key}
            type="button"
            aria-current={view === key ? "page" : undefined}
            onClick={() => show(key)}
            className={`-mb-px rounded-t-md border border-b-0 px-4 py-1.5 max-md:px-1.5 ${view === key ? "border-line bg-card font-bold" : "border-transparent text-quiet hover:text-ink"}`}
          >
            {words}
          </button>
        ))}
      </nav>
      {view === "roadmap" ? <RoadmapView piece={piece} /> : null}
      {view === "count" ? <CountView piece={piece} bpm={choice.bpm} /> : null}
      {view === "write" && piece.is_entered ? <EntryView piece={piece} bpm={choice.bpm} /> : null}
      {view === "pencil" ? <PencilView piece={piece} /> : null}
      {view === "ask" ? <AskView piece={piece} /> : null}
      {view === "play" ? (
        <div className="grid gap-x-6 gap-y-4 lg:grid-cols-[minmax(0,1fr)_344px]">
          <div className="min-w-0 max-lg:order-2">
            <PlayChoices
              piece={piece}
              options={options}
              choice={play}
              onChoice={setPlay}
              bpm={choice.bpm}
              hand={choice.hand}
              onHand={(hand) => setChoice({ hand })}
            />
            <PassageLine piece={piece} passage={passage} onClear={() => setPassage(null)} />
            <RoadmapLine pieceId={piece.id} />
            <RulerView
              ruler={piece.ruler}
              counts={counts.data}
              hands={choice.hand}
              passage={passage}
              onBar={onBar}
              handle={ruler}
            />
            {counts.error ? <Problem error={counts.error} /> : null}
            <Legend />
          </div>
          <div className="min-w-0">
            <PlayCard
              piece={piece}
              options={options}
              counts={counts.data}
              choice={play}
              onChoice={setPlay}
              bpm={choice.bpm}
              onBpm={setBpm}
              tapTempo={tapTempo}
              hand={choice.hand}
              onHand={(hand) => setChoice({ hand })}
              measures={measures}
              passageWords={passageWords}
              session={session}
              state={state}
            />
          </div>
        </div>
      ) : null}
      {view === "ladder" ? (
        <div className="grid gap-x-6 gap-y-4 md:grid-cols-[176px_minmax(0,1fr)] xl:grid-cols-[176px_minmax(0,1fr)_304px]">
          <LadderView
            rungs={piece.rungs}
            current={rungKey}
            onChoose={(key) => {
              if (!idle) session.discard();
              setSearch({ rung: key }, { replace: true });
            }}
          />
          <div className="min-w-0 max-md:contents max-md:*:min-w-0 md:max-xl:order-3 md:max-xl:col-span-2">
            <PassageLine piece={piece} passage={passage} onClear={() => setPassage(null)} />
            <RoadmapLine pieceId={piece.id} />
            <RulerView
              ruler={piece.ruler}
              counts={counts.data}
              hands={choice.hand}
              passage={passage}
              onBar={onBar}
              handle={ruler}
            />
            {counts.error ? <Problem error={counts.error} /> : null}
            <Legend />
            <div className="max-md:order-4">
              {counts.data ? (
                <CountPanel
                  pieceId={piece.id}
                  bpm={choice.bpm}
                  counts={counts.data}
                  disabled={!idle}
                  onBar={(onset) => {
                    const bar = piece.ruler.measures.findLast((m) => m.start_quarters <= onset);
                    if (bar) ruler.current?.showBar(bar.start_quarters);
                  }}
                />
              ) : null}
              <TakeList
                pieceId={piece.id}
                asked={{ rung: rungKey === "count" ? "play" : rungKey, bpm: choice.bpm, hands: choice.hand, measures }}
                passageWords={passageWords}
              />
              <Downloads piece={piece} />
            </div>
          </div>
          <div className="min-w-0 max-md:order-3 md:max-xl:order-2 xl:col-start-3">
            <div
              data-covers={live ? "" : undefined}
              className={`sticky top-3 ${live ? "max-md:fixed max-md:inset-x-0 max-md:top-auto max-md:bottom-0 max-md:z-10 max-md:bg-paper max-md:p-3" : ""}`}
            >
              {live ? (
                state.phase === "listening" ? (
                  <Listening session={session} state={state} />
                ) : (
                  <LiveTake session={session} state={state} rung={rungKey} />
                )
              ) : (
                <RungCard
                  piece={piece}
                  rung={rung}
                  counts={counts.data}
                  choice={choice}
                  onChoice={setChoice}
                  passageWords={passageWords}
                  mix={play.mix}
                  onMix={(mix) => setPlay({ mix })}
                  onMore={() => show("play")}
                  keyboards={keyboards}
                  session={session}
                  state={state}
                  onPlan={() => setSimulating("stand-in")}
                  onSimulate={() => {
                    simulate.reset();
                    setSimulating("take");
                  }}
                />
              )}
            </div>
          </div>
        </div>
      ) : null}
      <SimulateDialog
        piece={piece}
        keys={rungKey === "play"}
        standIn={simulating === "stand-in"}
        open={simulating !== null}
        busy={simulate.isPending}
        problem={simulate.error}
        onClose={() => setSimulating(null)}
        onPlay={(plan) => {
          if (simulating === "stand-in") {
            setChoice({ standIn: plan });
            setSimulating(null);
          } else
            simulate.mutate(
              { ...settings, ...plan },
              {
                onSuccess: (take) => {
                  setSimulating(null);
                  void navigate(`/pieces/${piece.id}/takes/${take.id}`);
                },
              },
            );
        }}
      />
    </main>
  );
}

const RUNG_KEYS = ["count", "lap", "play"] as const;
const VIEWS = [
  ["write", "Write"],
  ["roadmap", "Roadmap"],
  ["pencil", "Pencil"],
  ["count", "Count"],
  ["ask", "Ask"],
  ["play", "Play"],
  ["ladder", "Ladder"],
] as const;

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
    const start: CardChoice = { bpm: piece.start_bpm, hand: "both", rounds: 1, clickThrough: true };
    try {
      return { ...start, ...(JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<CardChoice>) };
    } catch {
      return start;
    }
  });
  const change = (part: Partial<CardChoice>) =>
    set((old) => {
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

function Listening({ session, state }: { session: PracticeSession; state: ReturnType<PracticeSession["snapshot"]> }) {
  return (
    <section aria-label="Listening" className="rounded-xl border-2 border-ink bg-card p-4">
      <p className="text-lg font-bold">{state.saying !== null ? "Count in" : "Listen"}</p>
      <p className="my-2 text-center text-5xl font-bold max-md:text-3xl" aria-live="off">
        {state.saying ?? count(state.taps, "slip")}
      </p>
      <button
        type="button"
        onPointerDown={(event) => {
          event.preventDefault();
          session.slip(event.timeStamp);
        }}
        className="flex min-h-28 w-full touch-none flex-col items-center justify-center rounded-lg border-2 border-dashed border-ink bg-here font-bold select-none max-md:min-h-40"
      >
        <span className="text-xl">I heard a slip</span>
        <kbd className="text-sm font-normal max-md:hidden">F or J</kbd>
      </button>
      <p className="mt-3 text-sm text-quiet">
        The student plays with the click; nothing is recorded but your marks. It ends with the passage
        <span className="max-md:hidden">
          , <kbd>Space</kbd> ends it now, <kbd>Esc</kbd> throws it away
        </span>
        .
      </p>
      <div className="mt-2 flex gap-4">
        <button type="button" className="font-bold underline" onClick={() => session.stop()}>
          End it
        </button>
        <button type="button" className="underline" onClick={() => session.discard()}>
          Throw it away
        </button>
      </div>
    </section>
  );
}

function LiveTake({
  session,
  state,
  rung,
}: {
  session: PracticeSession;
  state: ReturnType<PracticeSession["snapshot"]>;
  rung: RungKey;
}) {
  return (
    <section aria-label="Recording" className="rounded-xl border-2 border-ink bg-card p-4">
      <p className="flex items-baseline justify-between">
        <span className="text-lg font-bold">
          {state.phase === "between"
            ? "Next round is counted in …"
            : state.saying !== null
              ? "Count in"
              : rung === "play"
                ? "Play now"
                : "Tap now"}
        </span>
        {state.rounds > 1 ? (
          <span className="text-quiet">
            round {state.round} of {state.rounds}
          </span>
        ) : null}
      </p>
      <p className="my-2 text-center text-5xl font-bold max-md:text-3xl" aria-live="off">
        {state.phase === "between"
          ? state.take?.verdict?.status === "steady"
            ? "●"
            : "◐"
          : (state.saying ?? count(state.taps, rung === "play" ? "note" : "tap"))}
      </p>
      {rung === "play" ? null : <TapZones session={session} state={state} single={rung === "count"} />}
      <p className="mt-3 text-sm text-quiet">
        Silence ends the take.{" "}
        <span className="max-md:hidden">
          <kbd>Space</kbd> ends it now, <kbd>Esc</kbd> throws it away.
        </span>
      </p>
      <div className="mt-2 flex gap-4">
        <button type="button" className="font-bold underline" onClick={() => session.stop()}>
          End it
        </button>
        <button type="button" className="underline" onClick={() => session.discard()}>
          Throw it away
        </button>
      </div>
    </section>
  );
}
