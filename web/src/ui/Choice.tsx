/**
 * One of several, chosen from a list that opens. What opens is loaded when the first list is pressed (or about to be);
 * until then there is its button, which looks and is called the same.
 */
import { Suspense, lazy, useId, useState } from "react";

import { loaded } from "../lib/loading";
import { keep, parsed } from "../lib/stored";

export type ChoiceProps<T extends string> = {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
  hideLabel?: boolean;
  /** What the choice is, said until it was first used on this device. */
  hint?: string;
};

export const BUTTON_LOOK = [
  "flex min-h-10 min-w-0 flex-1 items-center justify-between gap-2 rounded-lg border border-edge",
  "bg-card px-3 text-left hover:border-ink pointer-coarse:min-h-11",
].join(" ");

/** The sign of a list that opens. */
export function OpensSign() {
  return (
    <svg aria-hidden viewBox="0 0 12 12" width="12" height="12" className="shrink-0">
      <path d="M2 4l4 4 4-4" fill="none" stroke="currentColor" strokeWidth="2" />
    </svg>
  );
}

let isLoaded = false;
const load = () =>
  loaded(() => import("./ListedChoice")).then((it) => {
    isLoaded = true;
    return { default: it.ListedChoice };
  });
const Listed = lazy(load) as unknown as typeof import("./ListedChoice").ListedChoice;

export function Choice<T extends string>(props: ChoiceProps<T>) {
  const { label, value, options, hideLabel = false, hint } = props;
  const [isNew, onUse] = useFirstUse(`hint.${label}`);
  const [pressed, setPressed] = useState(false);
  // A button that has the focus is not taken away from under it: only what is drawn later is a list from the start.
  const [wasLoaded] = useState(isLoaded);
  const hintId = useId();
  const explained = hint !== undefined && isNew ? hintId : undefined;
  const shown = options.find(([key]) => key === value)?.[1] ?? value;
  const closed = (
    <button
      type="button"
      aria-label={`${label}: ${shown}`}
      aria-haspopup="listbox"
      aria-expanded={false}
      aria-describedby={explained}
      className={BUTTON_LOOK}
      onPointerEnter={() => void load()}
      onFocus={() => void load()}
      onClick={() => setPressed(true)}
      onKeyDown={(event) => {
        if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
        event.preventDefault();
        setPressed(true);
      }}
    >
      <span className="truncate">{shown}</span>
      <OpensSign />
    </button>
  );
  return (
    <div className="relative flex flex-wrap items-center gap-x-2 gap-y-1">
      {hideLabel ? null : <span className="text-quiet">{label}</span>}
      {pressed || wasLoaded ? (
        <Suspense fallback={closed}>
          <Listed {...props} hintId={explained} onUse={onUse} startsOpen={pressed} />
        </Suspense>
      ) : (
        closed
      )}
      {explained ? (
        <span id={hintId} className="basis-full text-sm text-quiet" data-screen-only="">
          {hint}
        </span>
      ) : null}
    </div>
  );
}

/** Whether a thing was never used on this device, and what says that it was. */
function useFirstUse(key: string): [boolean, () => void] {
  const [isNew, setNew] = useState(() => parsed(`laptick.${key}`) === null);
  return [
    isNew,
    () => {
      if (isNew) keep(`laptick.${key}`, "used");
      setNew(false);
    },
  ];
}
