/** How a file is read, as it is sent back with one thing changed. */
import type { Schemas } from "../../api/client";

export function updateOf(reading: Schemas["ReadingPublic"]): Schemas["ReadingUpdate"] {
  const { staff_hands, note_hands, split_pitch, grid, line_starts, phrase_starts, parts } = reading;
  return {
    parts: parts.filter((part) => part.is_read).map((part) => part.id),
    staff_hands,
    note_hands,
    split_pitch,
    grid,
    line_starts,
    phrase_starts,
  };
}
