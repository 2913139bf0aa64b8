/** What is at hand everywhere: something found by its name (/), help (?). */
import { Suspense, lazy, useEffect, useState } from "react";

import { useIsTeacher } from "../../api/me";
import { loaded } from "../../lib/loading";

const Find = lazy(() => loaded(() => import("./Find")).then((it) => ({ default: it.Find })));
const Help = lazy(() => loaded(() => import("./Help")).then((it) => ({ default: it.Help })));

const LOOK = "min-h-11 min-w-11 px-1 text-quiet hover:text-ink";

export function Aside() {
  const [shown, setShown] = useState<"help" | "find" | null>(null);
  const isTeacher = useIsTeacher();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      if (event.ctrlKey || event.metaKey || event.altKey || target?.closest("input, textarea, select")) return;
      if (event.key === "?") setShown("help");
      if (event.key !== "/" || !isTeacher) return;
      event.preventDefault(); // some browsers begin to look through the page
      setShown("find");
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [isTeacher]);
  const onClose = () => setShown(null);
  return (
    <div className="ml-auto flex sm:gap-3">
      {isTeacher ? (
        <button type="button" className={LOOK} onClick={() => setShown("find")}>
          <svg aria-hidden viewBox="0 0 16 16" className="inline size-5 fill-none stroke-current stroke-2 md:hidden">
            <circle cx="7" cy="7" r="4.5" />
            <path d="M10.5 10.5 15 15" />
          </svg>
          <span className="max-md:sr-only">Find</span> <kbd className="max-md:hidden">/</kbd>
        </button>
      ) : null}
      <button type="button" className={LOOK} onClick={() => setShown("help")}>
        <span className="max-md:sr-only">Help</span> <kbd>?</kbd>
      </button>
      <Suspense>
        {shown === "help" ? <Help onClose={onClose} /> : null}
        {shown === "find" ? <Find onClose={onClose} /> : null}
      </Suspense>
    </div>
  );
}
