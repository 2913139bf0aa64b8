/** The days of the last weeks as one row of marks, today at the right: full where there was practice. */
import { count } from "../../lib/words";

type Props = { practised: readonly boolean[]; className?: string };

const WEEK = 7;

export function DayStrip({ practised, className = "" }: Props) {
  const days = practised.filter(Boolean).length;
  return (
    <span
      role="img"
      aria-label={`practised on ${days} of the last ${count(practised.length, "day")}`}
      className={`inline-flex items-end gap-0.5 ${className}`}
    >
      {practised.map((isOn, day) => (
        <span
          key={day}
          className={[
            "w-1.5 rounded-full",
            isOn ? "h-4 bg-ink" : "h-1.5 bg-edge",
            day && (practised.length - day) % WEEK === 0 ? "ml-2" : "",
          ].join(" ")}
        />
      ))}
    </span>
  );
}
