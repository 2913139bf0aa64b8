/** A take: leaning pins on the ruler, the verdict in words, the figures a click below. */
import { useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import type { Piece, Schemas, Take } from "../../api/client";
import { usePiece } from "../../api/queries/pieces";
import { useBeside, useDeleteTake, useJudgeAgain, useJudgeAsPassage, useNoteTake, useTake } from "../../api/queries/takes";
import { STATUS_WORDS, timeOf } from "../../lib/words";
import { type Mark, type Pin, type RulerHandle, RulerView } from "../../ruler/RulerView";
import { Button, Loading, Problem, useToast } from "../../ui/kit";
import { BesidePanel } from "./BesidePanel";
import { Charts } from "./Charts";
import { Figures } from "./Figures";
import { Findings } from "./Findings";
import { Overrule } from "./Overrule";
import type { CheckDocument, Place } from "./document";

export function TakePage() {
  const params = useParams();
  const piece = usePiece(Number(params.pieceId));
  const take = useTake(Number(params.takeId));
  const error = piece.error ?? take.error;
  if (error) return <main className="p-6"><Problem error={error}><Link className="underline" to={`/pieces/${params.pieceId}`}>Back to the piece</Link></Problem></main>;
  if (!piece.data || !take.data) return <Loading what="Opening the take" />;
  return <TakeView key={take.data.id} piece={piece.data} take={take.data} />;
}

function TakeView({ piece, take }: { piece: Piece; take: Take }) {
  const checked = take.document as unknown as CheckDocument;
  const ruler = useRef<RulerHandle>(null);
  const settings = take.settings as { hands: "right" | "left" | "both" };
  const [besideId, setBesideId] = useState<number | null>(null);
  const beside = useBeside(take.id, besideId);
  const pins = useMemo(() => pinsOf(checked), [checked]);
  const marks = useMemo(() => [...marksOf(take, checked), ...heardMarks(beside.data ?? [])], [take, checked, beside.data]);
  const { verdict } = take;
  const show = (place: Place) => { const bar = barOf(take, place); if (bar) ruler.current?.showBar(bar.start_quarters); };
  const showOnset = (onset: number) => { const bar = take.ruler.measures.findLast((m) => m.start_quarters <= onset + 1e-6); if (bar) ruler.current?.showBar(bar.start_quarters); };
  return (
    <main className="mx-auto max-w-[1480px] px-4 pt-3 pb-16 md:px-6">
      <header className="mb-3">
        <Link to={`/pieces/${piece.id}?rung=${take.rung}`} className="font-bold underline">{piece.title}</Link>
        <h1 className="text-2xl font-bold">
          {TITLES[take.rung]}, {timeOf(take.created_at)}
          {take.played_by === "student" ? null : <span className="font-normal text-quiet"> · {take.played_by === "file" ? "from a file" : "simulated student"}</span>}
        </h1>
      </header>
      <div className="grid gap-6 xl:grid-cols-[minmax(0,1fr)_340px]">
        <section aria-label="Verdict" className="rounded-xl border-2 border-ink bg-card p-5 xl:order-2 xl:self-start">
          <p className="text-2xl font-bold first-letter:uppercase">{STATUS_WORDS[verdict.status]}</p>
          {verdict.status === "could-not-follow" ? <Lost piece={piece} take={take} checked={checked} /> : null}
          {verdict.good.length ? (
            <ul className="mt-3 space-y-1 text-good">
              {verdict.good.map((sentence) => <li key={sentence} className="flex gap-2"><span aria-hidden>✓</span>{sentence}</li>)}
            </ul>
          ) : null}
          {verdict.finding ? <p className="mt-4 text-xl font-bold">{verdict.finding.text}</p> : null}
          {verdict.place && verdict.place_text && verdict.finding ? (
            <button type="button" className="text-quiet underline" onClick={() => { if (verdict.place) show(verdict.place); }}>{verdict.place_text}</button>
          ) : null}
          {verdict.cure && !checked.passage ? <p className="mt-3 border-l-4 border-ink pl-3">{verdict.cure.text}</p> : null}
          {verdict.cure?.rung && verdict.cure.rung !== take.rung ? (
            <Link className="mt-1 inline-block font-bold underline" to={`/pieces/${piece.id}?rung=${verdict.cure.rung}`}>Go to that rung</Link>
          ) : null}
          {verdict.also ? <p className="mt-4 text-quiet">Also: {verdict.also.text}</p> : null}
          <Overrule take={take} pieceId={piece.id} />
          <div className="mt-5 flex flex-wrap gap-3">
            <Link to={`/pieces/${piece.id}?rung=${take.rung}`} className="rounded-lg bg-ink px-4 py-2 font-bold text-card">Back to the rung</Link>
            <DeleteButton piece={piece} take={take} />
          </div>
          <Note piece={piece} take={take} />
        </section>
        <div className="min-w-0">
          <RulerView ruler={take.ruler} counts={take.counts} hands={settings.hands} pins={pins} pinLimit_ms={checked.limits.deviation_ms} marks={marks} handle={ruler} />
          {checked.followed ? (
            <p className="text-sm text-quiet">
              Pins lean left when early and right when late; thick ones are past the level’s limit of {Math.round(checked.limits.deviation_ms)} ms, upright ones within it.
              Ring: not played. Cross: too many.
            </p>
          ) : null}
          {checked.followed ? (
            <>
              <Findings checked={checked} said={[verdict.finding?.text, verdict.also?.text].filter((text) => text !== undefined)} onShow={show} />
              <Charts checked={checked} onShow={show} />
            </>
          ) : null}
          <BesidePanel pieceId={piece.id} takeId={take.id} chosen={besideId} onChoose={setBesideId} onShow={showOnset} />
          <Figures take={take} checked={checked} />
          {take.checker_is_current ? null : <Again piece={piece} take={take} />}
          <Earlier take={take} />
        </div>
      </div>
    </main>
  );
}

function pinsOf(checked: CheckDocument): Pin[] {
  return checked.notes.map((note) => ({
    onset_quarters: note.onset_quarters,
    hand: note.hand,
    deviation_ms: note.deviation_ms,
    deviation_percent: note.deviation_percent,
    matters: Math.abs(note.deviation_ms) > checked.limits.deviation_ms + note.uncertainty_ms,
  }));
}

/** The bar of a place, the time through that is meant. */
function barOf(take: Take, place: Pick<Place, "measure" | "pass">) {
  return take.ruler.measures.find((m) => m.number === place.measure && m.pass_number === place.pass);
}

function marksOf(take: Take, checked: CheckDocument): Mark[] {
  const at = (place: { measure: string; offset: string; pass: number }) => {
    const [over, under] = place.offset.split("/").map(Number);
    return (barOf(take, place)?.start_quarters ?? 0) + (over ?? 0) / (under ?? 1);
  };
  const marks: Mark[] = [
    ...checked.missing.map((one) => ({ onset_quarters: one.onset_quarters, text: "not played", kind: "missing" as const })),
    ...checked.wrong.map((one) => ({ onset_quarters: one.onset_quarters, text: checked.source === "midi" ? "another key" : "the other side", kind: "extra" as const })),
    ...checked.extra.flatMap((one) => (one.onset_quarters === null ? [] : [{ onset_quarters: one.onset_quarters, text: "too many", kind: "extra" as const }])),
  ];
  const { place, finding, status } = take.verdict;
  if (place && finding) marks.push({ onset_quarters: at(place), text: MARK_WORDS[finding.code] ?? "here", kind: "finding" });
  if (place && status === "could-not-follow") marks.push({ onset_quarters: at(place), text: "lost here", kind: "finding" });
  return marks;
}

const TITLES = { lap: "Lap taps", count: "Say the count", play: "At the keys" } as const;

function heardMarks(rows: Schemas["BesidePublic"][]): Mark[] {
  return rows.filter((row) => row.heard).map((row) => ({ onset_quarters: row.onset_quarters, text: "you heard a slip", kind: "change" as const }));
}

const MARK_WORDS: Record<string, string> = {
  "rushed-run": "rushed here", limping: "limps here", uneven: "uneven here", "hands-apart": "furthest apart here",
  hesitation: "the beat stops", drift: "the tempo moves", "off-tempo": "other tempo from here", missing: "left out here",
  extra: "too many here", "wrong-notes": "another one here", restart: "back to here", "late-then-compensated": "begins late here", "dot-flattened": "flat here",
  "triplet-bent": "bent here", duplet: "two equal here", "long-rushed": "rushed on here", "long-cut": "let go early here", "rest-run-over": "sounds on here",
  "late-entry": "late here",
};

function Lost({ piece, take, checked }: { piece: Piece; take: Take; checked: CheckDocument }) {
  const judge = useJudgeAsPassage(take.id, piece.id);
  const { passage } = checked;
  return (
    <div className="mt-2">
      {passage ? (
        <>
          <p>What was played seems to be {passage.words}, not what was asked for.</p>
          <Button className="mt-2" disabled={judge.isPending} onClick={() => judge.mutate(passage.measures)}>Check it as {passage.words}</Button>
          {judge.error ? <Problem error={judge.error} /> : null}
        </>
      ) : (
        <p>{checked.source === "midi" ? "The notes" : "The taps"} could not be laid on the score; they were lost at {take.verdict.place_text}. The take is kept, without figures.</p>
      )}
    </div>
  );
}

function DeleteButton({ piece, take }: { piece: Piece; take: Take }) {
  const remove = useDeleteTake(piece.id);
  const toast = useToast();
  const navigate = useNavigate();
  return (
    <>
      <Button onClick={() => remove.mutate({ id: take.id, deleted: true }, {
        onSuccess: () => {
          toast("The take is deleted.", () => remove.mutate({ id: take.id, deleted: false }));
          void navigate(`/pieces/${piece.id}?rung=${take.rung}`);
        },
      })}>Delete</Button>
      {remove.error ? <Problem error={remove.error} /> : null}
    </>
  );
}

const SAVE_AFTER_MS = 700;

/** Saved while one types; what could not be saved stays here and on this device. */
function Note({ piece, take }: { piece: Piece; take: Take }) {
  const key = `laptick.note.${take.id}`;
  const [text, setText] = useState(() => localStorage.getItem(key) ?? take.note);
  const { mutate, isPending, error } = useNoteTake(take.id, piece.id);
  useEffect(() => {
    if (text === take.note) {
      localStorage.removeItem(key);
      return undefined;
    }
    localStorage.setItem(key, text);
    const timer = setTimeout(() => mutate(text), SAVE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [text, take.note, key, mutate]);
  return (
    <label className="mt-5 block">
      <span className="font-bold">Note</span>
      <textarea className="mt-1 block w-full rounded-md border border-line bg-paper p-2" rows={3} maxLength={4000} value={text}
        onChange={(event) => setText(event.target.value)} />
      <span role="status" className="text-sm text-quiet">
        {error ? "Not saved yet; it is kept on this device." : text !== take.note || isPending ? "Saving …" : take.note ? "Saved." : ""}
      </span>
    </label>
  );
}

function Again({ piece, take }: { piece: Piece; take: Take }) {
  const again = useJudgeAgain(take.id, piece.id);
  return (
    <p className="mt-4">
      This take was judged by an earlier version of the checker ({take.checker_version}).{" "}
      <Button look="quiet" disabled={again.isPending} onClick={() => again.mutate()}>Judge it again</Button>
    </p>
  );
}

/** What was said of this take before it was judged anew. */
function Earlier({ take }: { take: Take }) {
  if (!take.earlier.length) return null;
  return (
    <section aria-label="Earlier judgements" className="mt-4 text-sm text-quiet">
      <h2 className="font-bold">Judged before</h2>
      <ul>
        {take.earlier.map((one) => (
          <li key={one.judged_at}>{timeOf(one.judged_at)}, checker version {one.checker_version}: {STATUS_WORDS[one.status]}{one.verdict.finding ? `. ${one.verdict.finding.text}` : ""}</li>
        ))}
      </ul>
    </section>
  );
}
