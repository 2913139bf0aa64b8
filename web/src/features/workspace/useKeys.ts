/** The keys of the workspace. Keys typed into a field, or used by a control that needs them, are left alone. */
import { useEffect, useRef } from "react";

type Keys = {
  enabled: boolean;
  onSpace: () => void;
  onRecord: () => void;
  onTap: (hand: "right" | "left", timeStamp: number) => void;
  onArrow: (by: number) => void;
  onEscape: () => void;
  onTempo: (by: number) => void;
  /** Any other single key, in small letters; true if it was of use. */
  onKey: (key: string, timeStamp: number) => boolean;
};

const TAPS: Record<string, "right" | "left"> = { KeyF: "left", KeyJ: "right" };

export function useKeys(keys: Keys): void {
  const latest = useRef(keys);
  useEffect(() => { latest.current = keys; });
  useEffect(() => {
    let byTab = false;
    const onPointer = () => { byTab = false; };
    const onKey = (event: KeyboardEvent) => {
      const now = latest.current;
      const target = event.target as HTMLElement | null;
      if (event.key === "Tab") byTab = true;
      if (!now.enabled || event.ctrlKey || event.metaKey || event.altKey) return;
      if (target?.closest("input:not([type=range]), textarea, select, [role=listbox], [role=dialog], [contenteditable]")) return;
      const hand = TAPS[event.code];
      if (hand) {
        if (!event.repeat) now.onTap(hand, event.timeStamp);
      } else if (event.code === "Space") {
        // A control reached by Tab keeps its own Space; one that was clicked does not hold on to it.
        if (byTab && target?.closest("button, a, summary, [role=switch]")) return;
        event.preventDefault();
        if (!event.repeat) now.onSpace();
      } else if (event.code === "KeyR" && !event.shiftKey) now.onRecord();
      else if (target?.matches("input[type=range]") && event.code.startsWith("Arrow")) return; // its own
      else if (event.code === "ArrowRight" || event.code === "ArrowLeft") {
        event.preventDefault();
        now.onArrow(event.code === "ArrowRight" ? 1 : -1);
      } else if ((event.code === "ArrowUp" || event.code === "ArrowDown")) {
        event.preventDefault();
        now.onTempo(event.code === "ArrowUp" ? 1 : -1);
      } else if (event.code === "Escape") now.onEscape();
      else if (!event.repeat && event.key.length === 1 && now.onKey(event.key.toLowerCase(), event.timeStamp)) event.preventDefault();
    };
    // On a mouse click a button would take the focus and then swallow Space as its own.
    const onUp = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      if (latest.current.enabled && event.code === "Space" && target?.matches("button") && !byTab) event.preventDefault();
    };
    window.addEventListener("pointerdown", onPointer);
    window.addEventListener("keydown", onKey);
    window.addEventListener("keyup", onUp);
    return () => {
      window.removeEventListener("pointerdown", onPointer);
      window.removeEventListener("keydown", onKey);
      window.removeEventListener("keyup", onUp);
    };
  }, []);
}
