/** Whether the play-along covers the screen with ruler and count only, as on a music stand. */
import type { DeskView } from "./useDesk";

export function StandSwitch({ desk }: { desk: DeskView }) {
  return (
    <label className="flex min-h-9 items-center justify-between gap-2 pointer-coarse:min-h-11">
      Play along on the stand: ruler and count only
      <input
        type="checkbox"
        className="size-5 accent-ink"
        checked={desk.isStand}
        onChange={(event) => desk.setStand(event.target.checked)}
      />
    </label>
  );
}
