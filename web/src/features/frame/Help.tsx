/** Help: where a first lesson is told, and the shortcuts of the computer keyboard. */
import { Link } from "react-router";

import { useIsTeacher } from "../../api/me";
import { Sheet } from "../../ui/Sheet";
import { Button } from "../../ui/kit";

const KEYS = [
  ["Space", "play along, and stop; end a take"],
  ["R", "record a take, or start the rounds"],
  ["G", "practise with me: the rungs of today, one after the other"],
  ["C", "do what the checker advises, also from a take"],
  ["F", "tap with the left hand"],
  ["J", "tap with the right hand"],
  ["← →", "work on the bar before or after"],
  ["↑ ↓", "one metronome mark faster or slower"],
  ["T", "tap the tempo, three times or more"],
  ["L", "over and over, or once"],
  ["1 … 6", "silence count, click, backing, right hand, left hand, cue words; and back"],
  ["S", "play along on the stand: ruler and count only"],
  ["N", "listen, and mark slips with F or J"],
  ["Esc", "discard a take; back to the whole piece"],
  ["← → ↑ ↓", "in Pencil: from note to note; Shift for a stretch"],
  ["Enter", "in Pencil: correct the chosen note"],
  ["Delete", "in Pencil: take it out"],
  ["Ctrl Z, Ctrl Y", "in Pencil: undo, redo"],
  ["/", "find a student, a piece, a take"],
  ["?", "this list"],
] as const;

/** Address, words, and whether it is the teacher's. */
const GUIDES = [
  ["/guide", "A first lesson, step by step", true],
  ["/guide/parent", "For a parent, in ten sentences", false],
] as const;

export function Help({ onClose }: { onClose: () => void }) {
  const isTeacher = useIsTeacher();
  return (
    <Sheet open onClose={onClose} title="Help">
      <ul className="mb-5 space-y-1">
        {GUIDES.filter(([, , isTeachers]) => isTeacher || !isTeachers).map(([to, words]) => (
          <li key={to}>
            <Link
              to={to}
              onClick={onClose}
              className="inline-flex min-h-8 items-center font-bold underline underline-offset-4 pointer-coarse:min-h-11"
            >
              {words}
            </Link>
          </li>
        ))}
      </ul>
      <h3 className="mb-1 font-bold">Keys of the computer</h3>
      <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1">
        {KEYS.map(([key, words]) => (
          <div key={words} className="contents">
            <dt>
              <kbd className="rounded-sm border border-edge px-1">{key}</kbd>
            </dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
      <Button className="mt-5" onClick={onClose}>
        Close
      </Button>
    </Sheet>
  );
}
