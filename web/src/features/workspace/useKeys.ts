/** The keys of the workspace. Keys typed into a field, or used by a control that needs them, are left alone. */
import { useEffect, useRef } from "react";

type Keys = {
  enabled: boolean;
  onSpace: () => void;
  onRecord: () => void;
  onTap: (hand: "right" | "left", timeStamp: number) => void;
  onArrow: (by: number) => void;
  onEscape: () => void;
};

const TAPS: Record<string, "right" | "left"> = { KeyF: "left", KeyJ: "right" };

export function useKeys(keys: Keys): void {
  const latest = useRef(keys);
  useEffect(() => { latest.current = keys; });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const now = latest.current;
      const target = event.target as HTMLElement | null;
      if (!now.enabled || event.ctrlKey || event.metaKey || event.altKey) return;
      if (target?.closest("input, textarea, select, [role=listbox], [role=dialog], [contenteditable]")) return;
      const hand = TAPS[event.code];
      if (hand) {
        if (!event.repeat) now.onTap(hand, event.timeStamp);
      } else if (event.code === "Space") {
        if (target?.closest("button, a, summary, [role=switch]") && target !== document.body) {
          // A focused control keeps its own Space, unless it is the last thing clicked with the mouse.
          if (target.matches(":focus-visible")) return;
        }
        event.preventDefault();
        if (!event.repeat) now.onSpace();
      } else if (event.code === "KeyR" && !event.shiftKey) now.onRecord();
      else if (event.code === "ArrowRight" || event.code === "ArrowLeft") {
        event.preventDefault();
        now.onArrow(event.code === "ArrowRight" ? 1 : -1);
      } else if (event.code === "Escape") now.onEscape();
    };
    // On a mouse click a button would take the focus and then swallow Space as its own.
    const onUp = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      if (event.code === "Space" && target?.matches("button") && !target.matches(":focus-visible")) event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    window.addEventListener("keyup", onUp);
    return () => {
      window.removeEventListener("keydown", onKey);
      window.removeEventListener("keyup", onUp);
    };
  }, []);
}
