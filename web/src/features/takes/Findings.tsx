/** All that stands clear of its limit, each leading to its place; and the stops, with what of the score lies in them. */
import type { CheckDocument, Place } from "../../api/client";
import { beatsWords } from "../../lib/words";

const CAUSES: Record<string, string> = {
  "line-change": "a new line",
  "bar-line": "a bar line",
  "hand-move": "a hand moves",
  "both-change": "both hands change",
  "wide-reach": "a wide reach",
};

/** What looks like a stop and is none. */
const SLOWING = "slowing";

export function Findings({
  checked,
  said,
  onShow,
}: {
  checked: CheckDocument;
  said: readonly string[];
  onShow: (place: Place) => void;
}) {
  const more = checked.findings.filter((one) => !said.includes(one.text));
  const stops = checked.hesitations;
  const back = checked.recovery.filter((one) => one.beats !== null && one.beats > 0);
  const skips = checked.skips;
  if (!more.length && !stops.length && !skips.length) return null;
  return (
    <section aria-label="More findings" className="mt-5 rounded-lg border border-edge bg-card p-5">
      <h2 className="mb-1 font-bold">{said.length ? "More of this take" : "Places to look at"}</h2>
      <ul className="divide-y divide-line">
        {more.map((one) => (
          <Line
            key={`${one.code}${one.text}`}
            place={one.place}
            onShow={onShow}
            text={one.text}
            where={one.place_text}
          />
        ))}
        {skips.map((one) => (
          <Line
            key={`skip${one.from.measure}${one.to.measure}`}
            place={one.from}
            onShow={onShow}
            text={one.repeat ? "The repeat was not taken." : "Bars were left out here."}
            where={`on from bar ${one.to.measure}`}
          />
        ))}
        {stops.map((one) => (
          <Line
            key={`stop${one.measure}${one.offset}`}
            place={one}
            onShow={onShow}
            text={
              one.causes.includes(SLOWING)
                ? `The beat broadens by ${beatsWords(one.excess_beats)} to bar ${one.measure}.`
                : `The beat waits ${beatsWords(one.excess_beats)} before bar ${one.measure}.`
            }
            where={
              one.causes.includes(SLOWING)
                ? "a phrase that slows to its end, and no stop"
                : one.causes.length
                  ? `there: ${one.causes.map((cause) => CAUSES[cause] ?? cause).join(", ")}`
                  : "nothing of the score explains it"
            }
          />
        ))}
      </ul>
      {back.length ? (
        <p className="mt-2 text-sm text-quiet">
          After a slip the beat was back within {beatsWords(Math.max(...back.map((one) => one.beats ?? 0)))}.
        </p>
      ) : null}
    </section>
  );
}

function Line({
  place,
  text,
  where,
  onShow,
}: {
  place: Place;
  text: string;
  where: string;
  onShow: (place: Place) => void;
}) {
  return (
    <li>
      <button type="button" onClick={() => onShow(place)} className="w-full rounded px-1 py-2 text-left hover:bg-here">
        {text} <span className="text-sm text-quiet underline decoration-line">{where}</span>
      </button>
    </li>
  );
}
