/** What a piece's views have in common: the rung, tempo, hands, passage, mix; and the session's desk, arranged by them. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { Activity, Counts, NextStep, Piece, Rung, Schemas, Study } from "../../api/client";
import { useCounts } from "../../api/queries/pieces";
import { freshStudy, sendWord } from "../../api/queries/studies";
import { breakDue } from "../../lib/breaks";
import {
  type Passage,
  TIMES_ROUND,
  chosen,
  goesRound,
  measuresOf,
  moved,
  passageWords,
  roundWords,
  spotOf,
} from "../../lib/passage";
import { keep, parsed } from "../../lib/stored";
import { count } from "../../lib/words";
import type { Mix } from "../../sound/mix";
import { type RulerHandle, hasClaps, meetingNames } from "../../ruler/layout";
import { useCardChoice, usePlayChoice } from "../../session/cardChoice";
import { queryOf } from "../../session/choice";
import { session, useSession } from "../../session/current";
import type { Desk, Onward } from "../../session/state";
import { TapTempo } from "../../session/tapTempo";
import { useIsTeacher } from "../../api/me";
import { useToast } from "../../ui/kit";

const STAND_KEY = "laptick.stand";

/** What is practised: a rung of the ladder, or freely. */
export type Chosen = { rung: Rung } | { free: Activity };

type Asked = {
  piece: Piece;
  options: Schemas["PlayOptions"];
  study: Study;
  chosen: Chosen;
  isPlayView: boolean;
};

/** Something set by hand at one rung; it holds while that rung is worked on as it is. */
type ByHand<T> = { at: string; value: T } | null;

/** Practised freely: only a spot of the bars; counted more densely than is chosen. */
type FreeSpot = { within: string | null; density: Schemas["Density"] | null };

export function useDesk({ piece, options, study, chosen: what, isPlayView }: Asked) {
  const [choice, setChoice] = useCardChoice(piece);
  const [play, setPlay] = usePlayChoice(piece.id, options.levels);
  const [tapTempo] = useState(() => new TapTempo());
  const rung = "rung" in what ? what.rung : null;
  const at = rung?.key ?? "free";
  const [ownPassage, setOwnPassage] = useState<ByHand<Passage | null>>(null);
  const [ownBpm, setOwnBpm] = useState<ByHand<number>>(null);
  const [freeSpot, setFreeSpot] = useState<FreeSpot | null>(null);
  const spot = "free" in what ? freeSpot : null;
  const ruler = useRef<RulerHandle>(null);
  const bars = piece.ruler.measures;
  const meetings = useMemo(() => meetingNames(piece.meetings), [piece.meetings]);
  const rungPassage = useMemo(() => (rung ? passageOf(rung, bars.length) : null), [rung, bars.length]);
  const [ownLoop, setOwnLoop] = useState<ByHand<"right" | "left">>(null);
  const loop = ownLoop?.at === at ? ownLoop.value : null;
  const isOwnPassage = ownPassage?.at === at;
  const passage = isOwnPassage ? ownPassage.value : rungPassage;
  const hands = rung?.hands ?? choice.hand;
  const bpm = rung ? (ownBpm?.at === `${at} ${rung.bpm}` ? ownBpm.value : rung.bpm) : choice.bpm;
  const isTeacher = useIsTeacher();
  const counts = useCounts(piece.id, bpm, hands, {
    density: spot?.density ?? null,
    student: study.level === piece.level && isTeacher ? null : study.student_id,
  });
  const state = useSession(piece.id);
  const settings = useMemo(
    () => settingsOf({ piece, study, what, passage, isOwnPassage, hands, bpm, isRound: choice.isRound, spot }),
    [piece, study, what, passage, isOwnPassage, hands, bpm, choice.isRound, spot],
  );
  const { measures, times_round, within } = settings;
  const asked = useMemo(() => spotOf(bars, passage, within), [bars, passage, within]);
  const setBpm = (value: number) => (rung ? setOwnBpm({ at: `${at} ${rung.bpm}`, value }) : setChoice({ bpm: value }));

  const { clickThrough } = choice;
  const breakMinutes = study.break_minutes;
  const rounds = rung ? choice.rounds : choice.freeRounds;
  const waiting = useRef(false);
  useEffect(() => {
    const common = { piece, mix: play.mix, standIn: choice.standIn ?? null, isSpoken: choice.isSpoken };
    const free = { rung: null, intro: [], isHeardOnly: false };
    const deskOf = (one: Rung | null, own: typeof settings): Desk => ({
      pieceId: piece.id,
      title: piece.title,
      student: { id: study.student_id, name: study.student },
      bars: piece.ruler.measures,
      work: one ? one.key : isPlayView ? "play" : "free",
      settings: own,
      hasClaps: hasClaps(piece.ruler, own.hands),
      mix: loop && one === rung ? loopMix(common.mix, loop) : common.mix,
      beat: clickThrough ? (one?.beat ?? "click") : "none",
      playing: loop && one === rung ? loopOf(play, own) : playingOf(one, play, own),
      plainly: !isPlayView && one?.stage !== "hear",
      standIn: common.standIn,
      isSpoken: common.isSpoken,
      likely: likelyOf(study),
      ...(one
        ? {
            rung: one.key,
            intro: one.intro.map((clip) => clip.file),
            isHeardOnly: one.activity === null || one.stage === "count",
          }
        : free),
      onward: (next) =>
        onwardOf({
          study,
          from: one,
          next,
          deskOf: (to) => deskOf(to, ofRung(piece, study, to)),
          breakMinutes,
          again: () => deskOf(one, own),
        }),
    });
    session.arrange(deskOf(rung, settings));
    if (waiting.current) {
      waiting.current = false;
      session.record(rounds);
    }
  }, [
    piece,
    study,
    rung,
    settings,
    play,
    isPlayView,
    clickThrough,
    choice.standIn,
    choice.isSpoken,
    breakMinutes,
    rounds,
    loop,
  ]);
  useEffect(() => session.follow(piece.id, (onset) => ruler.current?.moveCursor(onset)), [piece.id]);
  const [isStand, setStand] = useState(() => parsed(STAND_KEY) === true);
  useEffect(() => () => session.leave(), []);
  useHeardToast(state.heard);

  const idle = state.phase === "idle";
  const canChoose = idle || state.phase === "playing";
  const setPassage = useCallback(
    (value: Passage | null) => {
      setOwnPassage({ at, value });
      setFreeSpot(null);
    },
    [at],
  );
  return {
    piece,
    options,
    study,
    rung,
    what,
    choice,
    setChoice,
    rounds,
    hands,
    bpm,
    setBpm,
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
    /** Where in the score only what is struck there is asked for. */
    spot: asked,
    /** The hand that the computer plays over and over while one plays the other. */
    loop,
    setLoop: (value: "right" | "left" | null) => setOwnLoop(value ? { at, value } : null),
    /** Other bars than the rung's were chosen. */
    isOwnPassage,
    /** Where the hands of a ratio scale meet, as names on the ruler. */
    meetings,
    passageWords: passageWords(bars, passage),
    /** What a take is of. */
    takeWords: (settings.within ? "a spot of " : "") + passageWords(bars, passage) + roundWords(times_round),
    /** It is counted more densely than is chosen. */
    density: spot?.density ?? null,
    canGoRound: goesRound(bars, passage),
    measures,
    /** Practised freely: bars, hands and tempo; the address says what is done. */
    workOn: (wanted: Wanted) => {
      setChoice({ hand: wanted.hand, bpm: wanted.bpm });
      setOwnPassage({ at: "free", value: wanted.passage });
      setFreeSpot({ within: wanted.within ?? null, density: wanted.density ?? null });
    },
    asCounted: () => setFreeSpot(spot && { ...spot, density: null }),
    /** What is arranged next is counted in at once. */
    startNext: () => {
      waiting.current = true;
    },
    clearPassage: () => {
      setOwnPassage(null);
      setFreeSpot(null);
    },
    movePassage: (by: number) => setPassage(moved(passage, by, bars.length)),
    onBar: useCallback(
      (index: number, extend: boolean) => {
        if (canChoose) setPassage(chosen(passage, index, extend));
      },
      [canChoose, passage, setPassage],
    ),
    /** Whether the play-along stands on the stand. */
    isStand,
    setStand: (on: boolean) => {
      keep(STAND_KEY, on);
      setStand(on);
    },
    stepTempo: (by: number) => {
      const marks = piece.metronome_marks;
      const next = by > 0 ? marks.find((mark) => mark > bpm) : marks.findLast((mark) => mark < bpm);
      if (next !== undefined) setBpm(next);
    },
  };
}

export type DeskView = ReturnType<typeof useDesk>;

/** What may be said after a run: what does not hang on it, and what is said before the rungs of today. */
const likelyOf = ({ likely, rungs, today }: Study): string[] => {
  const near = rungs.filter(({ key }) => today.includes(key)).flatMap(({ intro }) => intro);
  return [...new Set([...likely, ...near].map((clip) => clip.file))];
};

/** The bars of a rung; null: the whole piece, in the order in which it is played. */
export const passageOf = (rung: Rung, bars: number): Passage | null =>
  rung.first === 0 && rung.last === bars - 1 ? null : { from: rung.first, to: rung.last };

type Given = {
  piece: Piece;
  study: Study;
  what: Chosen;
  passage: Passage | null;
  isOwnPassage: boolean;
  hands: "right" | "left" | "both";
  bpm: number;
  isRound: boolean;
  spot: FreeSpot | null;
};

/** What is practised freely. */
type Wanted = Pick<Given, "passage" | "bpm"> & { hand: Given["hands"] } & Partial<FreeSpot>;

function settingsOf({ piece, study, what, passage, isOwnPassage, hands, bpm, isRound, spot }: Given) {
  const bars = piece.ruler.measures;
  const rung = "rung" in what ? what.rung : null;
  const round = isRound && goesRound(bars, passage) ? TIMES_ROUND : 1;
  return {
    activity: "free" in what ? what.free : (rung?.activity ?? "play"),
    bpm,
    hands,
    measures: measuresOf(bars, passage),
    times_round: rung && !isOwnPassage ? rung.rounds : round,
    // A count is said of whole bars.
    within:
      rung && !isOwnPassage ? rung.within : "free" in what && what.free === "count" ? null : (spot?.within ?? null),
    density: spot?.density ?? null,
    rung: rung?.key ?? null,
    study_id: study.id,
  };
}

const ofRung = (piece: Piece, study: Study, rung: Rung) =>
  settingsOf({
    piece,
    study,
    what: { rung },
    passage: passageOf(rung, piece.ruler.measures.length),
    isOwnPassage: false,
    hands: rung.hands,
    bpm: rung.bpm,
    isRound: true,
    spot: null,
  });

function playingOf(rung: Rung | null, play: Parameters<typeof queryOf>[0], own: ReturnType<typeof settingsOf>) {
  const query = queryOf(play, own);
  return rung?.stage === "hear" ? { ...query, mode: "hear" as const } : query;
}

/** Both hands over and over without a stop; the mix leaves one of them to whoever plays. */
const loopOf = (play: Parameters<typeof queryOf>[0], own: ReturnType<typeof settingsOf>) =>
  queryOf({ ...play, mode: "play", rounds: LOOPS, between: "straight" }, { ...own, hands: "both" });

const LOOPS = 20;

const loopMix = (mix: Mix, hand: "right" | "left"): Mix => ({
  ...mix,
  muted: { ...mix.muted, right: hand !== "right", left: hand !== "left" },
});

type Going = {
  study: Study;
  from: Rung | null;
  next: NextStep | null;
  deskOf: (to: Rung) => Desk;
  again: () => Desk;
  breakMinutes: number;
};

const END: Onward = { desk: null, say: [] };

/** What comes after a take, or after what was only heard: the same again, the next rung, something smaller, or the end. */
async function onwardOf({ study, from, next, deskOf, again, breakMinutes }: Going): Promise<Onward> {
  if (!from) return { desk: again(), say: [] };
  const heard = next === null && (from.activity === null || from.stage === "count");
  if (heard) await sendWord(study, { rung: from.key, by: "the student", why: "In a session.", back: false });
  const now = await freshStudy(study);
  if (breakDue(breakMinutes)) return { desk: null, say: [study.break_said.file] };
  if (next?.is_enough) return END;
  const wanted = heard ? now.now : (next?.to ?? next?.rung ?? from.key);
  const to = now.rungs.find((one) => one.key === wanted);
  // What is lined up goes out of time, with a hand on the screen.
  return to && to.stage !== "line-up" ? { desk: deskOf(to), say: [] } : END;
}

/** Says once what was kept of a listening. */
function useHeardToast(heard: number | null): void {
  const toast = useToast();
  useEffect(() => {
    if (heard === null) return;
    session.told();
    toast(
      heard
        ? `${count(heard, "slip")} marked: kept among the takes.`
        : "Nothing marked: kept among the takes as heard without a slip.",
    );
  }, [heard, toast]);
}
