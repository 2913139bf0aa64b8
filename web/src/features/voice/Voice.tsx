/** The counting voice: its language, its words, and the teacher's own recordings of them. */
import { useEffect, useRef, useState } from "react";

import type { Schemas, System } from "../../api/client";
import { useChangeOwnWord, useRecordWord, useVoice, useVoiceWord } from "../../api/queries/studio";
import { WordRecorder } from "../../sound/recorder";
import { Choice } from "../../ui/Choice";
import { Button, Loading, Problem } from "../../ui/kit";
import { SayIt } from "./SayIt";

type Word = Schemas["VoiceWordPublic"];
type Group = Schemas["VoiceGroupPublic"];

const SOURCES: Record<Word["source"], string> = {
  shipped: "comes with Lap Tick",
  recorded: "your voice",
  made: "made here",
  none: "not spoken",
};
/** Other ways of drawing the same: seen without colour. */
const SOURCE_SHAPES: Record<Word["source"], string> = { shipped: "", recorded: "●", made: "◐", none: "○" };

const SAY_S = 1.7;
const READY_S = 0.7;

export function Voice({ system, onLanguage }: { system: System; onLanguage: (language: string) => void }) {
  const voice = useVoice();
  const [key, setKey] = useState<Group["key"]>(system);
  const [chosen, setChosen] = useState<string | null>(null);
  const [typed, setTyped] = useState("");
  const [another, setAnother] = useState("");
  const other = useVoiceWord(another);
  if (voice.error) return <Problem error={voice.error} />;
  if (!voice.data) return <Loading what="Fetching the voice" />;
  const group = voice.data.groups.find((one) => one.key === key) ?? voice.data.groups[0];
  if (!group) return null;
  const word = group.said.find((one) => one.reading === chosen) ?? (another ? other.data : undefined);
  const ofSystem = group.key === "cues" || group.key === "phrases" ? undefined : group.key;
  return (
    <section aria-label="The counting voice" className="mb-8">
      <h2 className="mb-1 text-xl font-bold">The counting voice</h2>
      <p className="mb-3 text-quiet">
        A word you type anywhere is spoken at once. Say the words yourself and your students hear you: about two seconds
        a word.
      </p>
      <div className="mb-3 grid max-w-3xl gap-2 md:grid-cols-2">
        <Choice
          label="Language"
          value={voice.data.language}
          options={voice.data.languages.map((one) => [one.key, one.words] as const)}
          onChange={onLanguage}
        />
        <Choice
          label="Words of"
          value={group.key}
          options={voice.data.groups.map((one) => [one.key, one.words.replace(/\.$/, "")] as const)}
          onChange={(next) => {
            setKey(next);
            setChosen(null);
            setAnother("");
          }}
        />
      </div>
      <div role="group" aria-label="Words of the voice" className="flex flex-wrap gap-2">
        {group.said.map((one) => (
          <button
            key={one.reading}
            type="button"
            aria-pressed={one.reading === chosen}
            onClick={() => {
              setAnother("");
              setChosen(one.reading === chosen ? null : one.reading);
            }}
            className={[
              "rounded-md border-2 px-3 py-2",
              one.reading === chosen ? "border-ink bg-here font-bold" : "border-edge bg-card hover:border-ink",
            ].join(" ")}
          >
            {one.say}
            <span className="sr-only">, {SOURCES[one.source]}</span>
            {SOURCE_SHAPES[one.source] ? (
              <span aria-hidden className="ml-2 text-sm">
                {SOURCE_SHAPES[one.source]}
              </span>
            ) : null}
          </button>
        ))}
      </div>
      <p className="mt-1 text-sm text-quiet">
        <span aria-hidden>●</span> your voice <span aria-hidden>· ◐</span> made on this machine · without a sign: comes
        with Lap Tick
      </p>
      <form
        className="mt-2 flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          setChosen(null);
          setAnother(typed.trim());
        }}
      >
        <label className="flex items-center gap-2">
          <span className="text-quiet">Another word, of a piece or a cue</span>
          <input
            value={typed}
            maxLength={24}
            onChange={(event) => setTyped(event.target.value)}
            className="w-36 rounded-lg border border-edge bg-card px-2 py-1"
          />
        </label>
        <Button type="submit" className="px-3 py-1" disabled={!typed.trim()}>
          Choose it
        </Button>
      </form>
      {other.error ? <Problem error={other.error} /> : null}
      {word ? (
        <OneWord key={word.reading} word={word} system={another ? undefined : ofSystem} />
      ) : (
        <Row group={group} />
      )}
    </section>
  );
}

/** One word: heard, recorded, its vowel moved, taken back. */
function OneWord({ word, system }: { word: Word; system: System | undefined }) {
  const record = useRecordWord();
  const change = useChangeOwnWord();
  const recorder = useRecorder();
  const [spoken, setSpoken] = useState(word.spoken ?? word.say);
  const [state, setState] = useState<"idle" | "ready" | "now" | "sending">("idle");
  const [problem, setProblem] = useState<unknown>(null);
  const start = async () => {
    setProblem(null);
    try {
      await recorder.open();
      setState("ready");
      await wait(READY_S);
      setState("now");
      const audio = await recorder.record(SAY_S);
      setState("sending");
      await record.mutateAsync({ reading: word.reading, spoken: spoken.trim() || word.say, audio });
    } catch (error) {
      setProblem(error);
    } finally {
      setState("idle");
    }
  };
  const mine = word.source === "recorded" && word.own_id !== null;
  return (
    <div className="mt-3 rounded-lg border-2 border-ink bg-card p-3">
      <p className="mb-2">
        <b className="text-xl">{word.say}</b>{" "}
        <span className="text-quiet">
          {SOURCES[word.source]} · {Math.round(word.length_s * 1000)} ms long, its vowel{" "}
          {Math.round(word.vowel_s * 1000)} ms after its start falls on the beat
        </span>
      </p>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <SayIt say={word.say} system={system} />
        <SayIt say={word.say} system={system} click words="Hear it on the click" />
        <label className="flex items-center gap-2">
          You say{" "}
          <input
            value={spoken}
            maxLength={24}
            onChange={(event) => setSpoken(event.target.value)}
            className="w-28 rounded-lg border border-edge bg-paper px-2 py-1"
          />
        </label>
        <Button disabled={state !== "idle"} onClick={() => void start()}>
          {state === "idle"
            ? mine
              ? "Record it again"
              : "Record it"
            : state === "ready"
              ? "Ready …"
              : state === "now"
                ? `Say “${spoken}” now`
                : "Storing …"}
        </Button>
        {mine ? (
          <Button look="quiet" onClick={() => change.mutate({ id: word.own_id as number, is_used: false })}>
            Back to the voice that was there
          </Button>
        ) : null}
        {!mine && word.own_id !== null ? (
          <Button look="quiet" onClick={() => change.mutate({ id: word.own_id as number, is_used: true })}>
            Use my recording again
          </Button>
        ) : null}
      </div>
      {mine && word.sample ? (
        <Vowel
          word={word}
          busy={change.isPending}
          onMove={(vowel_s) => change.mutate({ id: word.own_id as number, vowel_s })}
        />
      ) : null}
      {problem ? <Problem error={problem} /> : null}
      {change.error ? <Problem error={change.error} /> : null}
    </div>
  );
}

const STEP_S = 0.005;

/** The recording drawn, with the line that falls on the beat; it can be moved. */
function Vowel({ word, busy, onMove }: { word: Word; busy: boolean; onMove: (vowel_s: number) => void }) {
  const peaks = usePeaks(word.sample?.file ?? "");
  const at = (100 * word.vowel_s) / word.length_s;
  return (
    <div className="mt-3 flex items-center gap-3">
      <Button
        aria-label="vowel earlier"
        className="px-3"
        disabled={busy || word.vowel_s < STEP_S}
        onClick={() => onMove(Math.max(0, word.vowel_s - STEP_S))}
      >
        ←
      </Button>
      <svg
        viewBox="0 0 100 30"
        preserveAspectRatio="none"
        className="h-14 max-w-md flex-1 border-b border-line"
        role="img"
        aria-label={`the recording; the beat falls at ${Math.round(word.vowel_s * 1000)} ms`}
      >
        {peaks.map((peak, i) => (
          <rect
            key={i}
            x={(i * 100) / peaks.length}
            width={70 / peaks.length}
            y={15 - 14 * peak}
            height={28 * peak + 0.4}
            className="fill-quiet"
          />
        ))}
        <line x1={at} x2={at} y1={0} y2={30} className="stroke-ink" strokeWidth={0.8} />
      </svg>
      <Button
        aria-label="vowel later"
        className="px-3"
        disabled={busy || word.vowel_s + STEP_S > word.length_s}
        onClick={() => onMove(word.vowel_s + STEP_S)}
      >
        →
      </Button>
      <span className="text-sm text-quiet">What falls on the beat: by 5 ms</span>
    </div>
  );
}

/** All words of a group, one after the other. */
function Row({ group }: { group: Group }) {
  const record = useRecordWord();
  const recorder = useRecorder();
  const [at, setAt] = useState<number | null>(null);
  const [now, setNow] = useState(false);
  const [failed, setFailed] = useState<{ say: string; why: unknown }[]>([]);
  const [problem, setProblem] = useState<unknown>(null);
  const stop = useRef(false);
  const run = async () => {
    stop.current = false;
    setFailed([]);
    setProblem(null);
    try {
      await recorder.open();
    } catch (error) {
      setProblem(error);
      return;
    }
    const sending: Promise<unknown>[] = [];
    for (const [index, word] of group.said.entries()) {
      setAt(index);
      setNow(false);
      await wait(READY_S);
      if (stop.current) break;
      setNow(true);
      const audio = await recorder.record(SAY_S);
      if (stop.current) break;
      sending.push(
        record
          .mutateAsync({ reading: word.reading, spoken: word.say, audio })
          .catch((why: unknown) => setFailed((all) => [...all, { say: word.say, why }])),
      );
    }
    await Promise.all(sending);
    setAt(null);
  };
  const word = at === null ? null : group.said[at];
  return (
    <div className="mt-3">
      {word ? (
        <div className="flex items-center gap-5 rounded-lg border-2 border-ink bg-card p-5" role="status">
          <span className={`min-w-24 text-center text-6xl font-bold ${now ? "" : "text-quiet"}`}>{word.say}</span>
          <span>
            {now ? "Say it now." : "Get ready …"}{" "}
            <span className="text-quiet">
              {(at ?? 0) + 1} of {group.said.length}
            </span>
          </span>
          <Button
            className="ml-auto"
            onClick={() => {
              stop.current = true;
            }}
          >
            Stop
          </Button>
        </div>
      ) : (
        <Button onClick={() => void run()}>Record these {group.said.length} words in a row</Button>
      )}
      {failed.length ? (
        <div role="alert" className="mt-2 rounded-lg border-2 border-warn bg-card p-3">
          <p className="font-bold">Not recorded: {failed.map((one) => one.say).join(", ")}. All others are kept.</p>
          <p>{failed[0]?.why instanceof Error ? failed[0].why.message : ""} Choose such a word and record it alone.</p>
        </div>
      ) : null}
      {problem ? <Problem error={problem} /> : null}
    </div>
  );
}

const wait = (seconds: number) => new Promise((done) => setTimeout(done, seconds * 1000));

/** One recorder while this is on the screen; the microphone is let go with it. */
function useRecorder(): WordRecorder {
  const [recorder] = useState(() => new WordRecorder());
  useEffect(() => () => recorder.close(), [recorder]);
  return recorder;
}

const PEAKS = 80;

/** How loud a recording is along its length, 0 to 1. */
function usePeaks(file: string): number[] {
  const [peaks, setPeaks] = useState<number[]>([]);
  useEffect(() => {
    let live = true;
    const read = async () => {
      const data = await (await fetch(file)).arrayBuffer();
      const samples = (await new OfflineAudioContext(1, 1, 22050).decodeAudioData(data)).getChannelData(0);
      const size = Math.max(1, Math.floor(samples.length / PEAKS));
      const found = Array.from({ length: PEAKS }, (_, i) =>
        samples.subarray(i * size, (i + 1) * size).reduce((most, one) => Math.max(most, Math.abs(one)), 0),
      );
      const most = Math.max(...found, 1e-6);
      if (live) setPeaks(found.map((one) => one / most));
    };
    read().catch(() => undefined); // the drawing is a help; the word can be heard without it
    return () => {
      live = false;
    };
  }, [file]);
  return peaks;
}
