/** Parts of the application that are loaded when they are gone to. */

const KEY = "laptick.reloaded";
const ASK_AGAIN_MS = 1500;

/** What a part is loaded with besides itself: tests give their own. */
export interface Around {
  /** Whether the server answers at all, whatever it says. */
  answers: () => Promise<boolean>;
  reload: () => void;
  wait: () => Promise<void>;
}

const browser: Around = {
  answers: () =>
    fetch("/api/health", { cache: "no-store" }).then(
      () => true,
      () => false,
    ),
  reload: () => location.reload(),
  wait: () => new Promise((go) => setTimeout(go, ASK_AGAIN_MS)),
};

/**
 * A part, or the whole page anew: after an update the names of the parts are others, and the page that is open asks for
 * one that is not there any more. Once; if that does not help, the error is shown. While the server does not answer,
 * the page that is open is all there is: it stays, and the part is asked for again when the server is back.
 */
export async function loaded<T>(load: () => Promise<T>, around: Around = browser): Promise<T> {
  for (let answered = false; ;) {
    try {
      const result = await load();
      sessionStorage.removeItem(KEY);
      serverAway.is(false);
      return result;
    } catch (error) {
      const answers = await around.answers();
      serverAway.is(!answers);
      if (!answers) await around.wait();
      // A server that was only just back has the part after all: a page is not thrown away before it is asked again.
      else if (!answered) answered = true;
      else if (sessionStorage.getItem(KEY)) throw error;
      else {
        sessionStorage.setItem(KEY, "yes");
        around.reload();
        return new Promise(() => undefined);
      }
    }
  }
}

/** One thing that is so or not, and who is told when it changes. */
function sign() {
  const listeners = new Set<() => void>();
  let now = false;
  return {
    now: () => now,
    subscribe(listener: () => void) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    is(next: boolean) {
      now = next;
      for (const listener of listeners) listener();
    },
  };
}

/** Whether the session at the instrument was ever loaded. */
export const sessionBegun = sign();

/** Whether a part is waited for because the server does not answer. */
export const serverAway = sign();
