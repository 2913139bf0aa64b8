/** How a student's practice and agreements are put in words. */
import { count } from "../../lib/words";

/** A week, of the days that are shown. */
const WEEK = 7;

/** When the last take was, as one would say it. ``practised``: by day, today last. */
export function lastPractised(practised: readonly boolean[]): string {
  const ago = practised.length - 1 - practised.lastIndexOf(true);
  if (ago === practised.length) return `not in the last ${count(practised.length / WEEK, "week")}`;
  if (ago === 0) return "today";
  if (ago === 1) return "yesterday";
  return ago < WEEK ? `${ago} days ago` : `${count(Math.floor(ago / WEEK), "week")} ago`;
}

/** Of the last seven days, those with practice. */
export const daysOfWeek = (practised: readonly boolean[]): number => practised.slice(-WEEK).filter(Boolean).length;

/** ``5 days a week, 15 minutes``. */
export function agreedWords(days: number | null | undefined, minutes: number | null | undefined): string {
  return [...(days ? [`${count(days, "day")} a week`] : []), ...(minutes ? [count(minutes, "minute")] : [])].join(", ");
}
