/** Which of many rows are in sight, or nearly: the others need not be drawn. */
import { type RefObject, useEffect, useState } from "react";

/** How far beyond the window a row counts as in sight. */
const AHEAD = "900px 0px";

/** Can it be known at all? */
export const canTellSight = typeof IntersectionObserver !== "undefined";

const NONE: ReadonlySet<number> = new Set();

/** The ``count`` rows lie in a box and carry their number in ``data-row``. Nothing is in sight before it is known. */
export function useInSight(box: RefObject<HTMLElement | null>, count: number): ReadonlySet<number> {
  const [near, setNear] = useState<ReadonlySet<number>>(NONE);
  useEffect(() => {
    const rows = box.current?.querySelectorAll<HTMLElement>("[data-row]");
    if (!rows?.length || !canTellSight) return;
    const seen = new Set<number>();
    const observer = new IntersectionObserver(
      (entries) => {
        for (const { target, isIntersecting } of entries) {
          const row = Number((target as HTMLElement).dataset.row);
          if (isIntersecting) seen.add(row);
          else seen.delete(row);
        }
        setNear(new Set(seen));
      },
      { rootMargin: AHEAD },
    );
    for (const row of rows) observer.observe(row);
    return () => observer.disconnect();
  }, [box, count]);
  return near;
}
