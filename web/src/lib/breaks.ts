/** How long somebody has practised without a break, on this device: a break is proposed, and begins a new stretch. */
/** Who does nothing for so long has had one. */
const PAUSE_MS = 4 * 60_000;

let begun_ms: number | null = null;
let last_ms = 0;

/** To be asked after every run: is it time? Asked again after it was, a new stretch has begun. */
export function breakDue(minutes: number, now_ms = Date.now()): boolean {
  if (begun_ms === null || now_ms - last_ms > PAUSE_MS) begun_ms = now_ms;
  last_ms = now_ms;
  if (now_ms - begun_ms < minutes * 60_000) return false;
  begun_ms = now_ms;
  return true;
}
