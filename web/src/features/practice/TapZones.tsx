/** Two zones to tap, left and right as the hands lie; one zone where any hand may say the count. */
import type { PracticeSession } from "../../session/practice";

type Props = {
  session: PracticeSession;
  live: boolean;
  single: boolean;
  /** A tap came: its hand lights up. */
  onTap?: (hand: "left" | "right") => void;
};

export function TapZones({ session, live, single, onTap }: Props) {
  const zone = (hand: "left" | "right", words: string, shape: string, key: string) => (
    <button
      type="button"
      disabled={!live}
      onPointerDown={(event) => {
        event.preventDefault();
        session.tap(hand, event.timeStamp);
        onTap?.(hand);
      }}
      className={[
        "flex min-h-[clamp(64px,20dvh,160px)] flex-1 touch-none flex-col items-center justify-center select-none",
        shape,
        "border-2 font-bold disabled:opacity-60",
      ].join(" ")}
    >
      <span className="text-lg">{words}</span>
      <kbd className="text-sm font-normal max-md:hidden pointer-coarse:hidden">{key}</kbd>
    </button>
  );
  return (
    <div className="flex gap-3" aria-label="Tap zones" role="group">
      {single ? (
        zone("right", "tap each word", "rounded-full border-ink bg-here", "F or J")
      ) : (
        <>
          {zone("left", "left", "rounded-sm border-lefthand bg-lefthand-soft text-[#164a6e]", "F")}
          {zone("right", "right", "rounded-full border-righthand bg-righthand-soft text-[#8a3a10]", "J")}
        </>
      )}
    </div>
  );
}
