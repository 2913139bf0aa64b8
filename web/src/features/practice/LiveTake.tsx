/** The card of a rung while it runs: a take being recorded, or a listening. */
import type { RungKey } from "../../api/client";
import { count } from "../../lib/words";
import type { PracticeSession } from "../../session/practice";
import type { State } from "../../session/state";
import { TapZones } from "./TapZones";

/** While somebody plays: the one key for what the teacher hears. */
export function Listening({ session, state }: { session: PracticeSession; state: State }) {
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
        className={[
          "flex min-h-28 w-full touch-none flex-col items-center justify-center",
          "rounded-lg border-2 border-dashed border-ink bg-here font-bold select-none max-md:min-h-40",
        ].join(" ")}
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
      <Ways session={session} />
    </section>
  );
}

/** While a take is recorded: what is counted, what was struck, the two zones. */
export function LiveTake({ session, state, rung }: { session: PracticeSession; state: State; rung: RungKey }) {
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
      <Ways session={session} />
    </section>
  );
}

/** The ways out of what runs. */
function Ways({ session }: { session: PracticeSession }) {
  return (
    <div className="mt-2 flex gap-4">
      <button type="button" className="font-bold underline" onClick={() => session.stop()}>
        End it
      </button>
      <button type="button" className="underline" onClick={() => session.discard()}>
        Throw it away
      </button>
    </div>
  );
}
