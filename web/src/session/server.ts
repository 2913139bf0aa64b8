/** What a session asks of the server. Whoever shows what changed by it is told through the query cache. */
import { type Schedule, type Schemas, type Take, type TakeAdded, type TakeCreate, api, unwrap } from "../api/client";
import { queryClient } from "../api/queries/client";
import { sendTake, takesChanged } from "../api/queries/takes";
import type { StandInNote } from "../sound/keyboard";
import type { Recorded } from "./ear";
import type { Desk, Mode, TakeSettings } from "./state";

export type Heard = TakeSettings & { slips: number[]; first_beat_s: number; client_key: string };

/** What is done with a recording: the share of it that was sent, then it is listened to. */
export type HearingStage = { sent: number } | "listening";

export type Server = {
  loadSchedule(desk: Desk, mode: Mode): Promise<Schedule>;
  loadStandIn(desk: Desk): Promise<StandInNote[]>;
  sendTake(pieceId: number, take: TakeCreate): Promise<TakeAdded>;
  /** A recording, heard and judged; ``onStage``: told what is done with it. */
  sendSound(recorded: Recorded, onStage: (stage: HearingStage) => void): Promise<TakeAdded>;
  /** The slips that the teacher marked while somebody played. */
  sendHeard(pieceId: number, heard: Heard): Promise<Pick<Schemas["ListeningPublic"], "slips">>;
};

/** A recording is looked after so often, at first more often; after so many turns it is left to its own page. */
const LOOK_MS = 1000;
const MOST_WAIT_MS = 100_000;
const isWaiting = ({ state }: Take) => state === "waiting" || state === "coming";

export const server: Server = {
  loadSchedule(desk, mode) {
    const { bpm, hands, measures, activity, times_round, within, density } = desk.settings;
    const query =
      mode === "playing"
        ? { ...desk.playing, ...(desk.plainly ? { mode: "play" as const } : {}) }
        : {
            bpm,
            hands,
            click_counts: activity === "count",
            groove: desk.beat === "backing" ? "auto" : "none",
            ...(measures ? { measures } : {}),
            ...(within ? { within } : {}),
            ...(density ? { density } : {}),
            ...(mode === "recording" && times_round > 1 ? { rounds: times_round, between: "straight" as const } : {}),
          };
    const params = { path: { piece_id: desk.pieceId }, query };
    return unwrap(api.GET("/api/pieces/{piece_id}/schedule", { params }));
  },

  async loadStandIn({ pieceId, settings, standIn }) {
    const params = { path: { piece_id: pieceId } };
    const body = { ...settings, ...standIn, faults: standIn?.faults ?? [] };
    const notes = await unwrap(api.POST("/api/pieces/{piece_id}/stand-in", { params, body }));
    return notes.map(({ t, pitch, velocity, released }) => ({
      t,
      pitch,
      velocity: velocity ?? 64,
      released: released ?? null,
    }));
  },

  async sendTake(pieceId, body) {
    const take = await sendTake(pieceId, body);
    queryClient.setQueryData(["take", take.id], take);
    void takesChanged(queryClient, pieceId); // what was heard is answered first
    return take;
  },

  async sendSound({ shelved, sound }, onStage) {
    const { pieceId, asked } = shelved;
    const { sendRecording } = await import("../api/recording"); // only who sends one needs it
    const takeId = await sendRecording(pieceId, asked, sound, (sent) => onStage({ sent }));
    onStage("listening");
    const path = { take_id: takeId };
    let take = await unwrap(api.GET("/api/takes/{take_id}", { params: { path } }));
    for (let wait_ms = 150; isWaiting(take) && wait_ms < MOST_WAIT_MS; wait_ms *= 1.15) {
      await new Promise((done) => setTimeout(done, Math.min(wait_ms, LOOK_MS)));
      take = await unwrap(api.GET("/api/takes/{take_id}", { params: { path } }));
    }
    const next = isWaiting(take) ? null : await unwrap(api.GET("/api/takes/{take_id}/next", { params: { path } }));
    queryClient.setQueryData(["take", take.id], take);
    void takesChanged(queryClient, pieceId);
    return { ...take, next };
  },

  async sendHeard(pieceId, body) {
    const params = { path: { piece_id: pieceId } };
    const kept = await unwrap(api.POST("/api/pieces/{piece_id}/listenings", { params, body }));
    await queryClient.invalidateQueries({ queryKey: ["listenings", pieceId] });
    return kept;
  },
};
