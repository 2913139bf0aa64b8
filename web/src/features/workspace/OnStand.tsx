/** What covers the screen while it runs: a take and a listening always, the play-along where it stands on the stand. */
import { session, useNow } from "../../session/current";
import { Listening, LiveTake } from "../practice/LiveTake";
import { Stand } from "../practice/Stand";
import { Button } from "../../ui/kit";
import type { DeskView } from "./useDesk";

const TITLES: Record<string, string> = { count: "Tap now", lap: "Tap now", play: "Play now" };

export function OnStand({ desk }: { desk: DeskView }) {
  const { piece, counts, settings, state, ruler } = desk;
  const playing = state.phase === "playing";
  const listening = state.phase === "listening";
  return (
    <Stand
      piece={piece}
      counts={counts}
      hands={desk.hands}
      bpm={desk.bpm}
      passageWords={state.phase === "recording" ? desk.takeWords : desk.passageWords}
      title={playing ? "Together" : listening ? "Listen" : (TITLES[settings.activity] ?? "Play now")}
      only={desk.rung || desk.spot ? desk.passage : null}
      spot={desk.spot}
      ruler={ruler}
    >
      {playing ? (
        <div className="flex gap-3">
          <Button onClick={() => desk.setStand(false)}>Off the stand</Button>
          <Button look="strong" keys="Space" className="min-h-13 flex-1 text-lg" onClick={() => session.stop()}>
            Stop
          </Button>
        </div>
      ) : listening ? (
        <Slips pieceId={piece.id} />
      ) : (
        <LiveTake
          session={session}
          live={state.phase === "recording"}
          activity={settings.activity}
          isHeard={state.isByEar}
          onTap={(hand) => ruler.current?.light(hand)}
        />
      )}
    </Stand>
  );
}

function Slips({ pieceId }: { pieceId: number }) {
  return <Listening session={session} slips={useNow(pieceId).taps} />;
}
