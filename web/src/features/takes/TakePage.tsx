/** A take: leaning pins on the ruler, the verdict in words, the figures a click below. */
import { useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import type { CheckDocument, Piece, Place, Take, Verdict } from "../../api/client";
import { usePiece } from "../../api/queries/pieces";
import { useBeside, useDeleteTake, useJudgeAgain, useJudgeAsPassage, useTake } from "../../api/queries/takes";
import { activityTitle, stateWords, statusWords } from "../../api/trade";
import { useIsTeacher } from "../../api/me";
import { timeOf } from "../../lib/words";
import { RulerView } from "../../ruler/RulerView";
import type { RulerHandle } from "../../ruler/layout";
import { ProblemPlace, WayOut } from "../../ui/ProblemPlace";
import { Titled } from "../../ui/Titled";
import { More } from "../../ui/More";
import { Button, LoadingPlace, Problem, useToast } from "../../ui/kit";
import { BesidePanel } from "./BesidePanel";
import { Charts } from "./Charts";
import { DoCure } from "./DoCure";
import { Figures } from "./Figures";
import { Findings } from "./Findings";
import { takenWords } from "../../lib/passage";
import { TakeClock } from "../../lib/takeClock";
import { KeptSound } from "./sound/KeptSound";
import { SoundBar, SoundShape, usePlayback } from "./sound/TakeSound";
import { Overrule } from "./Overrule";
import { Note } from "./Note";
import { barOf, heardMarks, marksOf, pinsOf } from "./marks";

export function TakePage() {
  const params = useParams();
  const piece = usePiece(Number(params.pieceId));
  const take = useTake(Number(params.takeId), isCopied);
  const error = piece.error ?? take.error;
  if (error)
    return (
      <ProblemPlace title="This take cannot be shown" error={error}>
        <WayOut to={`/pieces/${params.pieceId}`}>Back to the piece</WayOut>
      </ProblemPlace>
    );
  if (!piece.data || !take.data) return <LoadingPlace title="A take" what="Opening the take" />;
  const { verdict, document } = take.data;
  return (
    <main id="main" className="mx-auto max-w-[1480px] px-5 pt-3 pb-13 md:px-8">
      <Head piece={piece.data} take={take.data} />
      {verdict && document ? (
        <Judged
          key={`${take.data.id} ${take.data.recording?.can_play}`}
          piece={piece.data}
          take={take.data}
          verdict={verdict}
          checked={document}
        />
      ) : (
        <Unjudged key={take.data.id} piece={piece.data} take={take.data} />
      )}
    </main>
  );
}

/** So long after it was judged the copy that is played is looked for. */
const COPY_MS = 60_000;

/** Is the copy of its sound being made? */
function isCopied(take: Take | undefined): boolean {
  const { recording, judged_at } = take ?? {};
  if (!recording?.is_kept || !recording.may_hear || recording.can_play || !judged_at) return false;
  return Date.now() - Date.parse(judged_at) < COPY_MS;
}

/** Where it was practised: at its rung, or freely. */
function practiseAt(piece: Piece, take: Take): string {
  const { rung } = take.settings as { rung?: string | null };
  const at = { student: String(take.student_id), ...(rung ? { rung } : { free: take.activity }) };
  return `/pieces/${piece.id}?${new URLSearchParams(at)}`;
}

function Head({ piece, take }: { piece: Piece; take: Take }) {
  const { measures, times_round, within } = take.settings as {
    measures: string | null;
    times_round: number;
    within?: string | null;
  };
  const taken = takenWords(measures, times_round, within);
  return (
    <header className="mb-3">
      <Link
        to={practiseAt(piece, take)}
        className="inline-flex min-h-8 items-center font-bold underline pointer-coarse:min-h-11"
      >
        {piece.title}
      </Link>
      <span className="text-quiet"> · {take.student}</span>
      <Titled title={`Take of ${timeOf(take.created_at)} · ${piece.title}`} />
      <h1 tabIndex={-1} className="text-2xl font-bold focus:outline-none">
        {activityTitle(take.activity)}, {timeOf(take.created_at)}
        {taken ? <span className="font-normal text-quiet"> · {taken}</span> : null}
        {take.played_by === "student" ? null : (
          <span className="font-normal text-quiet">
            {" "}
            · {take.played_by === "file" ? "from a file" : "simulated student"}
          </span>
        )}
      </h1>
    </header>
  );
}

/** A take of which nothing is said: it waits, judging it failed, or what was said cannot be read. What was played is there. */
function Unjudged({ piece, take }: { piece: Piece; take: Take }) {
  const again = useJudgeAgain(take.id, piece.id);
  const isTeacher = useIsTeacher();
  const isUnheard = take.recording !== null && take.strikes.length === 0;
  const settings = take.settings as { hands: "right" | "left" | "both" };
  return (
    <>
      <section aria-label="Verdict" className="mb-5 rounded-lg bg-card p-5 wrap-anywhere">
        <p className="text-2xl font-bold first-letter:uppercase" role="status">
          {isUnheard && take.state === "waiting" ? "Listening …" : stateWords(take.state)}
        </p>
        <p className="mt-2 first-letter:uppercase">{unjudgedWords(take, isUnheard)}</p>
        <div className="mt-5 flex flex-wrap gap-3">
          {isUnheard || !isTeacher ? null : (
            <Button look="strong" disabled={again.isPending} onClick={() => again.mutate()}>
              Judge it
            </Button>
          )}
          {isTeacher ? <RemoveMenu piece={piece} take={take} /> : null}
        </div>
        {again.error ? <Problem error={again.error} /> : null}
        {isTeacher ? <Note piece={piece} take={take} /> : null}
      </section>
      <RulerView ruler={take.ruler} counts={take.counts} hands={settings.hands} />
    </>
  );
}

function unjudgedWords(take: Take, isUnheard: boolean): string {
  if (take.failure) return take.failure;
  if (take.state === "coming") return "Its recording is not all here. Where it is sent from, it can be gone on with.";
  if (take.state !== "waiting") return "What was said of this take cannot be read any more. What was played is kept.";
  return isUnheard
    ? "Its recording is being listened to. You can leave this page; it goes on."
    : "This take waits to be judged.";
}

/** A bar is heard from a little before it. */
const BEFORE_BAR_S = 0.15;

function Judged({
  piece,
  take,
  verdict,
  checked,
}: {
  piece: Piece;
  take: Take;
  verdict: Verdict;
  checked: CheckDocument;
}) {
  const ruler = useRef<RulerHandle>(null);
  const settings = take.settings as { hands: "right" | "left" | "both" };
  const isTeacher = useIsTeacher();
  const [besideId, setBesideId] = useState<number | null>(null);
  const beside = useBeside(take.id, besideId);
  const pins = useMemo(() => pinsOf(checked), [checked]);
  const marks = useMemo(
    () => [...marksOf(take, checked, verdict), ...heardMarks(beside.data ?? [])],
    [take, checked, verdict, beside.data],
  );
  const playback = usePlayback(take);
  const clock = useMemo(() => new TakeClock(checked.notes), [checked]);
  useEffect(
    () => playback?.follow((at_s) => ruler.current?.moveCursor(at_s === null ? null : clock.onsetAt(at_s))),
    [playback, clock],
  );
  const hearBar = (index: number) => {
    const at_s = clock.playedAt(take.ruler.measures[index]?.start_quarters ?? 0);
    if (at_s !== null) playback?.play(at_s - BEFORE_BAR_S);
  };
  // Where it was followed and is not kept, the ruler says all there is; else its shape tells what was there.
  const { envelope } = take;
  const isShown = envelope !== null && (playback !== null || !checked.followed);
  const shape = isShown ? (
    <SoundShape envelope={envelope} playback={playback} lost_s={checked.audio?.lost_s ?? null} />
  ) : null;
  const show = (place: Place) => {
    const bar = barOf(take, place);
    if (bar) ruler.current?.showBar(bar.start_quarters);
  };
  const showOnset = (onset: number) => {
    const bar = take.ruler.measures.findLast((m) => m.start_quarters <= onset + 1e-6);
    if (bar) ruler.current?.showBar(bar.start_quarters);
  };
  return (
    <>
      <div className="grid gap-8 xl:grid-cols-[minmax(0,1fr)_340px]">
        <section aria-label="Verdict" className="rounded-lg bg-card p-5 xl:order-2 xl:self-start">
          <p className="text-2xl font-bold first-letter:uppercase">
            {verdict.status === "could-not-follow" && verdict.place_text
              ? `Lap Tick lost its place at ${verdict.place_text}`
              : statusWords(verdict.status)}
          </p>
          {verdict.status === "could-not-follow" ? <Lost piece={piece} take={take} checked={checked} /> : null}
          {verdict.good.length ? (
            <ul className="mt-3 space-y-1 text-good">
              {verdict.good.map((sentence) => (
                <li key={sentence} className="flex gap-2">
                  <span aria-hidden>✓</span>
                  {sentence}
                </li>
              ))}
            </ul>
          ) : null}
          {take.met.length ? (
            <ul aria-label="Where the hands meet" className="mt-3 space-y-1">
              {take.met.map((one) => (
                <li key={one.place_text} className={`flex gap-2 ${one.is_met ? "text-good" : ""}`}>
                  <span aria-hidden>{one.is_met ? "✓" : "○"}</span>
                  <span>
                    {one.text} <span className="text-sm text-quiet">{one.place_text}</span>
                  </span>
                </li>
              ))}
            </ul>
          ) : null}
          {take.touched.length ? (
            <ul aria-label="Touch" className="mt-3 space-y-1">
              {take.touched.map((one) => (
                <li key={one.text} className={`flex gap-2 ${one.is_kept ? "text-good" : ""}`}>
                  <span aria-hidden>{one.is_kept ? "✓" : "○"}</span>
                  {one.text}
                </li>
              ))}
            </ul>
          ) : null}
          {verdict.finding ? <p className="mt-5 text-xl font-bold">{verdict.finding.text}</p> : null}
          {verdict.place && verdict.place_text && verdict.finding ? (
            <button
              type="button"
              className="text-quiet underline"
              onClick={() => {
                if (verdict.place) show(verdict.place);
              }}
            >
              {verdict.place_text}
            </button>
          ) : null}
          {verdict.cure && !checked.passage ? (
            <p className="mt-3 border-l-4 border-ink pl-3">{verdict.cure.text}</p>
          ) : null}
          <DoCure piece={piece} take={take} />
          {verdict.also ? <p className="mt-5 text-quiet">Also: {verdict.also.text}</p> : null}
          {isTeacher ? <Overrule take={take} said={verdict.status} pieceId={piece.id} /> : null}
          <div className="mt-5 flex flex-wrap gap-3" data-screen-only="">
            <Link to={practiseAt(piece, take)} className="rounded-lg bg-ink px-5 py-2 font-bold text-card">
              Back to the rung
            </Link>
            {isTeacher ? <RemoveMenu piece={piece} take={take} /> : null}
          </div>
          <KeptSound take={take} />
          {isTeacher ? <Note piece={piece} take={take} /> : null}
        </section>
        <div className="min-w-0">
          {playback ? (
            <SoundBar playback={playback} hasBeat={checked.followed}>
              {shape}
            </SoundBar>
          ) : (
            shape
          )}
          <RulerView
            ruler={take.ruler}
            counts={take.counts}
            hands={settings.hands}
            {...(playback && checked.followed ? { onBar: hearBar } : {})}
            pins={pins}
            pinLimit_ms={checked.limits.deviation_ms}
            marks={marks}
            handle={ruler}
          />
          {checked.followed ? (
            <p className="text-sm text-quiet">
              Pins lean left when early and right when late; thick ones are early or late enough to hear. Ring: not
              played. Cross: too many.
            </p>
          ) : null}
          {checked.followed ? (
            <>
              <Findings
                checked={checked}
                said={[verdict.finding?.text, verdict.also?.text].filter((text) => text !== undefined)}
                onShow={show}
              />
              <Charts checked={checked} onShow={show} />
            </>
          ) : null}
          {isTeacher ? (
            <BesidePanel
              pieceId={piece.id}
              takeId={take.id}
              chosen={besideId}
              onChoose={setBesideId}
              onShow={showOnset}
            />
          ) : null}
          <Figures take={take} checked={checked} />
          {take.checker_is_current || !isTeacher ? null : <Again piece={piece} take={take} />}
          <Earlier take={take} />
        </div>
      </div>
    </>
  );
}

function Lost({ piece, take, checked }: { piece: Piece; take: Take; checked: CheckDocument }) {
  const judge = useJudgeAsPassage(take.id, piece.id);
  const isTeacher = useIsTeacher();
  const { passage } = checked;
  return (
    <div className="mt-2">
      {passage ? (
        <>
          <p>What was played seems to be {passage.words}, not what was asked for.</p>
          {isTeacher ? (
            <Button className="mt-2" disabled={judge.isPending} onClick={() => judge.mutate(passage.measures)}>
              Check it as {passage.words}
            </Button>
          ) : null}
          {judge.error ? <Problem error={judge.error} /> : null}
        </>
      ) : (
        <p>{lostWords(checked)} The take is kept, without figures.</p>
      )}
    </div>
  );
}

function lostWords(checked: CheckDocument): string {
  if (checked.audio && !checked.audio.is_recognised)
    return (
      "What is heard in this recording is not what was asked for: another piece, or hardly any playing. " +
      "Choose what was played and record it again, with the device nearer to the strings."
    );
  const words = {
    midi: "the notes are not those of the score",
    taps: "the taps are not those of the score",
    audio: "what is heard is not what is written",
  };
  return `From there on ${words[checked.source]}.`;
}

function RemoveMenu({ piece, take }: { piece: Piece; take: Take }) {
  const remove = useDeleteTake(piece.id);
  const toast = useToast();
  const navigate = useNavigate();
  const onRemove = () =>
    remove.mutate(
      { id: take.id, deleted: true },
      {
        onSuccess: () => {
          toast("The take is removed.", () => remove.mutate({ id: take.id, deleted: false }));
          void navigate(`${practiseAt(piece, take)}&view=takes`);
        },
      },
    );
  return (
    <>
      <More label="More for this take" items={[["Remove", onRemove]]} />
      {remove.error ? <Problem error={remove.error} /> : null}
    </>
  );
}

function Again({ piece, take }: { piece: Piece; take: Take }) {
  const again = useJudgeAgain(take.id, piece.id);
  return (
    <p className="mt-5">
      This take was judged by an earlier version of the checker ({take.checker_version}).{" "}
      <Button look="quiet" disabled={again.isPending} onClick={() => again.mutate()}>
        Judge it again
      </Button>
    </p>
  );
}

/** What was said of this take before it was judged anew. */
function Earlier({ take }: { take: Take }) {
  if (!take.earlier.length) return null;
  return (
    <section aria-label="Earlier judgements" className="mt-5 text-sm text-quiet">
      <h2 className="font-bold">Judged before</h2>
      <ul>
        {take.earlier.map((one) => (
          <li key={one.judged_at}>
            {timeOf(one.judged_at)}, checker version {one.checker_version}: {statusWords(one.status)}
            {one.verdict?.finding ? `. ${one.verdict.finding.text}` : ""}
          </li>
        ))}
      </ul>
    </section>
  );
}
