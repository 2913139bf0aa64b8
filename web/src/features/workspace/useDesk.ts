/** What a piece's views have in common: tempo, hands, passage, mix; and the session's desk, arranged by them. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { Counts, Piece, RungKey, Schemas } from "../../api/client";
import { useCounts } from "../../api/queries/pieces";
import {
  type Passage,
  TIMES_ROUND,
  chosen,
  goesRound,
  measuresOf,
  moved,
  passageWords,
  roundWords,
} from "../../lib/passage";
import { keep, parsed } from "../../lib/stored";
import { count } from "../../lib/words";
import type { RulerHandle } from "../../ruler/layout";
import { useCardChoice, usePlayChoice } from "../../session/cardChoice";
import { queryOf } from "../../session/choice";
import { session, useSession } from "../../session/current";
import { TapTempo } from "../../session/tapTempo";
import { useToast } from "../../ui/kit";

const STAND_KEY = "laptick.stand";

type Asked = { piece: Piece; options: Schemas["PlayOptions"]; rung: RungKey; isPlayView: boolean };

export function useDesk({ piece, options, rung, isPlayView }: Asked) {
  const [choice, setChoice] = useCardChoice(piece);
  const [play, setPlay] = usePlayChoice(piece.id, options.levels);
  const [tapTempo] = useState(() => new TapTempo());
  const [passage, setPassage] = useState<Passage | null>(null);
  const ruler = useRef<RulerHandle>(null);
  const counts = useCounts(piece.id, choice.bpm, choice.hand);
  const state = useSession(piece.id);
  const bars = piece.ruler.measures;
  const measures = useMemo(() => measuresOf(bars, passage), [bars, passage]);
  const times_round = choice.isRound && goesRound(bars, passage) ? TIMES_ROUND : 1;
  const settings = useMemo(
    () => ({ rung, bpm: choice.bpm, hands: choice.hand, measures, times_round }),
    [rung, choice.bpm, choice.hand, measures, times_round],
  );

  useEffect(() => {
    session.arrange({
      pieceId: piece.id,
      title: piece.title,
      settings,
      mix: play.mix,
      clickThrough: choice.clickThrough,
      playing: queryOf(play, settings.bpm, settings.hands, settings.measures),
      plainly: !isPlayView,
      standIn: choice.standIn ?? null,
    });
  }, [piece.id, piece.title, settings, play, isPlayView, choice.clickThrough, choice.standIn]);
  useEffect(() => session.follow(piece.id, (onset) => ruler.current?.moveCursor(onset)), [piece.id]);
  const [isStand, setStand] = useState(() => parsed(STAND_KEY) === true);
  useEffect(() => () => session.leave(), []);
  useHeardToast(state.heard);

  const idle = state.phase === "idle";
  const canChoose = idle || state.phase === "playing";
  return {
    piece,
    options,
    choice,
    setChoice,
    setBpm: (bpm: number) => setChoice({ bpm }),
    play,
    setPlay,
    tapTempo,
    ruler,
    counts: counts.data as Counts | undefined,
    problem: counts.error,
    state,
    settings,
    idle,
    canChoose,
    passage,
    passageWords: passageWords(bars, passage),
    /** What a take is of. */
    takeWords: passageWords(bars, passage) + roundWords(times_round),
    canGoRound: goesRound(bars, passage),
    choosePassage: setPassage,
    clearPassage: () => setPassage(null),
    movePassage: (by: number) => setPassage((old) => moved(old, by, bars.length)),
    onBar: useCallback(
      (index: number, extend: boolean) => {
        if (canChoose) setPassage((old) => chosen(old, index, extend));
      },
      [canChoose],
    ),
    /** Whether the play-along stands on the stand. */
    isStand,
    setStand: (on: boolean) => {
      keep(STAND_KEY, on);
      setStand(on);
    },
    stepTempo: (by: number) => {
      const marks = piece.metronome_marks;
      const next = by > 0 ? marks.find((mark) => mark > choice.bpm) : marks.findLast((mark) => mark < choice.bpm);
      if (next !== undefined) setChoice({ bpm: next });
    },
  };
}

export type DeskView = ReturnType<typeof useDesk>;

/** Says once what was kept of a listening. */
function useHeardToast(heard: number | null): void {
  const toast = useToast();
  useEffect(() => {
    if (heard === null) return;
    session.told();
    toast(
      heard ? `${count(heard, "slip")} marked: kept below.` : "Nothing marked: kept below as heard without a slip.",
    );
  }, [heard, toast]);
}
