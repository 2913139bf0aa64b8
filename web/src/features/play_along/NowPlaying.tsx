/** What plays while another view is on the screen, with a way to stop it and a way back. */
import { useSyncExternalStore } from "react";
import { Link, useLocation } from "react-router";

import { Button } from "../../ui/kit";
import { session } from "../../session/current";

export function NowPlaying() {
  const state = useSyncExternalStore(session.subscribe, session.snapshot);
  const { pathname, search } = useLocation();
  if (state.phase !== "playing" || !state.playing) return null;
  const here = `/pieces/${state.playing.pieceId}`;
  const view = new URLSearchParams(search).get("view") ?? "ladder";
  if (pathname === here && (view === "ladder" || view === "play")) return null;
  return (
    <div
      role="region"
      aria-label="Playing"
      className="fixed bottom-4 left-4 z-30 flex items-center gap-3 rounded-lg border-2 border-ink bg-card px-3 py-2 shadow-lg"
    >
      <span className="w-10 text-center text-2xl font-bold" aria-hidden>
        {state.counting ?? "…"}
      </span>
      <Link className="underline" to={`${here}?view=play&student=${state.playing.student}`}>
        {state.playing.title}
      </Link>
      <Button className="px-3 py-1" onClick={() => session.stop()}>
        Stop
      </Button>
    </div>
  );
}
