/** What one touches while a rung runs: the two zones of a take, the one key of a listening, and the ways out. */
import type { Activity } from "../../api/client";
import { count } from "../../lib/words";
import type { PracticeSession } from "../../session/practice";
import { Dot } from "../../ui/kit";
import { TapZones } from "./TapZones";

/** While somebody plays: the one key for what the teacher hears. */
export function Listening({ session, slips }: { session: PracticeSession; slips: number }) {
  return (
    <>
      <button
        type="button"
        onPointerDown={(event) => {
          event.preventDefault();
          session.slip(event.timeStamp);
        }}
        className={[
          "flex min-h-[clamp(64px,20dvh,160px)] w-full touch-none flex-col items-center justify-center",
          "rounded-lg border-2 border-dashed border-ink bg-here font-bold select-none",
        ].join(" ")}
      >
        <span className="text-lg">I heard a slip</span>
        <span className="text-sm font-normal">
          {slips ? `${count(slips, "slip")} marked` : "nothing marked yet"}
          <kbd className="max-md:hidden pointer-coarse:hidden"> · F or J</kbd>
        </span>
      </button>
      <Ways session={session} words="The student plays with the click; only your marks are kept." />
    </>
  );
}

type TakeProps = {
  session: PracticeSession;
  live: boolean;
  activity: Activity;
  /** The microphone listens, and nothing is tapped. */
  isHeard: boolean;
  onTap: (hand: "left" | "right") => void;
};

/** While a take is recorded: the zones, where it is tapped. */
export function LiveTake({ session, live, activity, isHeard, onTap }: TakeProps) {
  return (
    <>
      {isHeard ? (
        <p role="status" className="flex items-center gap-2 text-quiet">
          <Dot isOn /> The microphone listens.
        </p>
      ) : null}
      {activity === "play" || isHeard ? null : (
        <TapZones session={session} live={live} single={activity === "count"} onTap={onTap} />
      )}
      <Ways session={session} words="Silence ends the take." />
    </>
  );
}

/** The ways out of what runs. */
function Ways({ session, words }: { session: PracticeSession; words: string }) {
  const way = "min-h-11 rounded-lg px-5 font-semibold";
  return (
    <div className="flex flex-wrap items-center justify-end gap-3">
      <span className="min-w-0 flex-1 truncate text-sm text-quiet max-md:hidden">
        {words} <kbd>Space</kbd> ends it now, <kbd>Esc</kbd> discards it.
      </span>
      <button
        type="button"
        className={`${way} border border-edge bg-card max-md:flex-1`}
        onClick={() => session.discard()}
      >
        Discard
      </button>
      <button type="button" className={`${way} bg-ink text-card max-md:flex-1`} onClick={() => session.stop()}>
        End
      </button>
    </div>
  );
}
