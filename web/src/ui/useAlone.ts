/** What covers the screen is alone with the keyboard: the rest of the page takes no focus meanwhile, and has it back. */
import { type RefObject, useLayoutEffect } from "react";

/** Everything beside an element, up to the page itself. */
export function besidesOf(element: HTMLElement): HTMLElement[] {
  const found: HTMLElement[] = [];
  for (let one: HTMLElement | null = element; one && one !== document.body; one = one.parentElement) {
    for (const other of one.parentElement?.children ?? []) {
      if (other !== one && other instanceof HTMLElement && !other.hasAttribute("inert")) found.push(other);
    }
  }
  return found;
}

/** While its component is there. Focus goes to ``first`` and comes back to where it was, if that still is there. */
export function useAlone(all: RefObject<HTMLElement | null>, first: RefObject<HTMLElement | null>): void {
  useLayoutEffect(() => {
    const element = all.current;
    if (!element) return undefined;
    const before = document.activeElement;
    const others = besidesOf(element);
    for (const other of others) other.toggleAttribute("inert", true);
    first.current?.focus({ preventScroll: true });
    return () => {
      for (const other of others) other.toggleAttribute("inert", false);
      if (before instanceof HTMLElement && before.isConnected) before.focus({ preventScroll: true });
    };
  }, [all, first]);
}
