/** The keys of the workspace. Keys typed into a field, or used by a control that needs them, are left alone. */
import { useLayoutEffect, useRef } from "react";

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

const CONTROLS = "button, a, summary, [role=switch]";

/** The key is ours, and nobody else's. */
function take(event: KeyboardEvent): void {
  event.preventDefault();
  event.stopPropagation();
}

export function useKeys(keys: Keys): void {
  const latest = useRef(keys);
  // With the drawing, not after it: what can be seen can be pressed.
  useLayoutEffect(() => {
    latest.current = keys;
  });
  useLayoutEffect(() => {
    // Controls that were clicked do not hold on to Space and arrows; those reached by the keyboard keep them.
    let clicked = new WeakSet<Element>();
    const onPointer = (event: PointerEvent) => {
      const control = (event.target as HTMLElement | null)?.closest(CONTROLS);
      if (control) clicked.add(control);
    };
    const keepsKeys = (target: HTMLElement | null) => {
      const control = target?.closest(CONTROLS);
      return Boolean(control && !clicked.has(control));
    };
    const onKey = (event: KeyboardEvent) => {
      const now = latest.current;
      const target = event.target as HTMLElement | null;
      if (event.key === "Tab") clicked = new WeakSet();
      if (!now.enabled || event.ctrlKey || event.metaKey || event.altKey) return;
      if (
        target?.closest("input:not([type=range]), textarea, select, [role=listbox], [role=dialog], [contenteditable]")
      )
        return;
      const hand = TAPS[event.code];
      if (hand) {
        if (!event.repeat) now.onTap(hand, event.timeStamp);
      } else if (event.code === "Space") {
        if (keepsKeys(target)) return;
        take(event);
        if (!event.repeat) now.onSpace();
      } else if (event.code === "KeyR" && !event.shiftKey) now.onRecord();
      else if (target?.matches("input[type=range]") && event.code.startsWith("Arrow"))
        return; // its own
      else if (event.code === "ArrowRight" || event.code === "ArrowLeft") {
        take(event);
        now.onArrow(event.code === "ArrowRight" ? 1 : -1);
      } else if (event.code === "ArrowUp" || event.code === "ArrowDown") {
        if (target?.matches("[aria-haspopup]") && keepsKeys(target)) return; // it opens its list
        take(event);
        now.onTempo(event.code === "ArrowUp" ? 1 : -1);
      } else if (event.code === "Escape") now.onEscape();
      else if (!event.repeat && event.key.length === 1 && now.onKey(event.key.toLowerCase(), event.timeStamp))
        take(event);
    };
    // On a mouse click a button would take the focus and then swallow Space as its own.
    const onUp = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      if (latest.current.enabled && event.code === "Space" && target?.matches("button") && !keepsKeys(target))
        event.preventDefault();
    };
    window.addEventListener("pointerdown", onPointer);
    // Before the controls hear it: one that was clicked, a list for instance, would make Space its own.
    window.addEventListener("keydown", onKey, true);
    window.addEventListener("keyup", onUp);
    return () => {
      window.removeEventListener("pointerdown", onPointer);
      window.removeEventListener("keydown", onKey, true);
      window.removeEventListener("keyup", onUp);
    };
  }, []);
}
