/** Parts of the application that are loaded when they are gone to. */

const KEY = "laptick.reloaded";

/**
 * A part, or the whole page anew: after an update the names of the parts are others, and the page that is open asks for
 * one that is not there any more. Once; if that does not help, the error is shown.
 */
export async function loaded<T>(part: Promise<T>, reload: () => void = () => location.reload()): Promise<T> {
  try {
    const result = await part;
    sessionStorage.removeItem(KEY);
    return result;
  } catch (error) {
    if (sessionStorage.getItem(KEY)) throw error;
    sessionStorage.setItem(KEY, "yes");
    reload();
    return new Promise(() => undefined);
  }
}

const listeners = new Set<() => void>();
let hasBegun = false;

/** Whether the session at the instrument was ever loaded. */
export const sessionBegun = {
  now: () => hasBegun,
  subscribe(listener: () => void) {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
  begin() {
    hasBegun = true;
    for (const listener of listeners) listener();
  },
};
