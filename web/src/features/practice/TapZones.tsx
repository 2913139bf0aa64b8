/** Two zones to tap, left and right as the hands lie; one zone where any hand may say the count. */
import type { PracticeSession } from "../../session/practice";
import type { State } from "../../session/state";

export function TapZones({ session, state, single }: { session: PracticeSession; state: State; single: boolean }) {
  const live = state.phase === "recording";
  const zone = (hand: "left" | "right", words: string, shape: string, key: string) => (
    <button
      type="button"
      disabled={!live}
      onPointerDown={(event) => {
        event.preventDefault();
        session.tap(hand, event.timeStamp);
      }}
      className={[
        "flex min-h-28 flex-1 touch-none flex-col items-center justify-center select-none max-md:min-h-40",
        shape,
        "border-2 font-bold disabled:opacity-60",
      ].join(" ")}
    >
      <span className="text-xl">{words}</span>
      <kbd className="text-sm font-normal max-md:hidden">{key}</kbd>
    </button>
  );
  return (
    <div className="flex gap-3" aria-label="Tap zones" role="group">
      {single ? (
        zone("right", "tap each word", "rounded-3xl border-ink bg-here", "F or J")
      ) : (
        <>
          {zone("left", "left", "rounded-sm border-lefthand bg-lefthand-soft text-[var(--color-lefthand)]", "F")}
          {zone("right", "right", "rounded-[2.5rem] border-righthand bg-righthand-soft text-[#8a3a10]", "J")}
        </>
      )}
    </div>
  );
}
