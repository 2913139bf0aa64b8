/** One store of what was fetched; what is changed is forgotten by its name wherever it shows. */
import { QueryClient, defaultScheduler, notifyManager } from "@tanstack/react-query";

import { ApiError } from "../client";

export const queryClient = new QueryClient({
  defaultOptions: {
    // The server is on this machine: being without a network says nothing.
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      retry: (count, error) => count < 3 && error instanceof ApiError && (error.status === 0 || error.status >= 500),
    },
  },
});

/**
 * A change that is drawn in this turn of the browser's clock, a frame sooner than others. Not for what is answered: who
 * waits for an answer is called before what hangs on it is drawn anew, and perhaps taken off the screen.
 */
export function atOnce(change: () => void): void {
  notifyManager.setScheduler(queueMicrotask);
  try {
    change();
  } finally {
    notifyManager.setScheduler(defaultScheduler);
  }
}

/**
 * Tells who asked for a change that it is made, where that may take them off the screen first: what hangs on it is
 * fetched anew meanwhile, and a mutation calls nobody who has left. What went wrong the mutation itself says.
 */
export function whenMade<Answer>(change: Promise<Answer>, then: (answer: Answer) => void): void {
  change.then(then, () => undefined);
}
