/** The way to a piece's places, and to the views inside the open one: each row one stop of the keyboard, the arrows go
 * along it. */
import type { KeyboardEvent } from "react";

import { useIsTeacher } from "../../api/me";
import { OWN_PLACES, PLACES, type Place, type View, placeOf } from "./places";

type Props = { view: View; canWrite: boolean; onShow: (view: View) => void };

export function PlaceTabs({ view, canWrite, onShow }: Props) {
  const place = placeOf(view);
  const places = useIsTeacher() ? PLACES : OWN_PLACES;
  const inside = place.views.filter(([key]) => key !== "write" || canWrite);
  const first = (one: Place) => one.views[0]?.[0] ?? "practise";
  return (
    <div className="mb-3 md:mb-5 [@media(max-height:500px)]:mb-2 [@media(max-height:500px)]:flex" data-screen-only="">
      <nav
        aria-label="Places of the piece"
        className="flex border-b border-line"
        onKeyDown={(event) => alongRow(event, places.map(first), first(place), onShow)}
      >
        {places.map((one) => {
          const isHere = one.key === place.key;
          return (
            <button
              key={one.key}
              type="button"
              data-view={first(one)}
              tabIndex={isHere ? 0 : -1}
              aria-current={isHere ? "page" : undefined}
              onClick={() => onShow(isHere ? view : first(one))}
              className={[
                "min-h-10 shrink-0 border-b-3 px-3 max-md:flex-1 max-md:px-1 max-md:text-sm pointer-coarse:min-h-11",
                isHere ? "border-ink font-bold" : "border-transparent text-quiet hover:text-ink",
              ].join(" ")}
            >
              {one.words}
            </button>
          );
        })}
      </nav>
      {inside.length > 1 ? (
        <nav
          aria-label={place.words}
          className="flex gap-1 pt-1"
          onKeyDown={(event) =>
            alongRow(
              event,
              inside.map(([key]) => key),
              view,
              onShow,
            )
          }
        >
          {inside.map(([key, words]) => (
            <button
              key={key}
              type="button"
              data-view={key}
              tabIndex={view === key ? 0 : -1}
              aria-current={view === key ? "true" : undefined}
              onClick={() => onShow(key)}
              className={[
                "min-h-8 rounded-lg px-3 text-sm pointer-coarse:min-h-11 pointer-coarse:min-w-11",
                view === key ? "bg-here font-semibold" : "text-quiet hover:text-ink",
              ].join(" ")}
            >
              {words}
            </button>
          ))}
        </nav>
      ) : null}
    </div>
  );
}

function alongRow(
  event: KeyboardEvent<HTMLElement>,
  row: readonly View[],
  at: View,
  onShow: (view: View) => void,
): void {
  const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
  const next = row[(row.indexOf(at) + by + row.length) % row.length];
  if (!by || !next) return;
  event.preventDefault();
  event.stopPropagation();
  onShow(next);
  event.currentTarget.querySelector<HTMLElement>(`[data-view="${next}"]`)?.focus();
}
