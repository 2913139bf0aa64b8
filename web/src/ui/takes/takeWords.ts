/** A take in a line: what holds of it, what was said of it, how and when it was played. */
import type { Schemas } from "../../api/client";
import { activityName, stateWords, statusWords } from "../../api/trade";
import { takenWords } from "../../lib/passage";
import { MICROPHONE, plainBpm, timeOf } from "../../lib/words";

const PLAYED_BY = { student: "", simulated: "simulated student · ", file: "from a file · " } as const;
const SHAPES = { steady: "●", nearly: "◐", "not-yet": "○", "could-not-follow": "?" } as const;

/** What is said in place of a verdict. */
const NOT_JUDGED: Record<Schemas["TakeState"], string> = {
  coming: "Its recording is not all here.",
  waiting: "Waits to be judged.",
  judged: "What was said of it cannot be read.",
  failed: "What was said of it cannot be read.",
};

/** How and when a take was played, in a line. */
export function circumstances(take: Schemas["TakeShort"]): string {
  const taken = takenWords(take.measures, take.times_round, take.within);
  return [
    activityName(take.activity) + (take.hands === "both" ? "" : `, ${take.hands} hand`) + (taken ? `, ${taken}` : ""),
    (take.median_bpm ? `at ${Math.round(take.median_bpm)}, ` : "") + `asked ${plainBpm(take.assigned_bpm)}`,
    PLAYED_BY[take.played_by] + timeOf(take.created_at),
    ...(take.filename ? [take.filename === MICROPHONE ? "by the microphone" : take.filename] : []),
    ...(take.overruled ? ["by your word"] : []),
    ...(take.note ? ["with a note"] : []),
  ].join(" · ");
}

/** The shape and the word for what holds of a take. */
export function signOf(take: Schemas["TakeShort"]): { mark: string; words: string } {
  const status = take.overruled ?? take.verdict?.status;
  return status ? { mark: SHAPES[status], words: statusWords(status) } : { mark: "…", words: stateWords(take.state) };
}

export function sentenceOf({ verdict, state, failure }: Schemas["TakeShort"]): string {
  if (!verdict) return failure ?? NOT_JUDGED[state];
  return verdict.finding?.text ?? verdict.good[0] ?? `Lap Tick lost its place at ${verdict.place_text}.`;
}
