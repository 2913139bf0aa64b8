/** One store of what was fetched; what is changed is forgotten by its name wherever it shows. */
import { QueryClient, notifyManager } from "@tanstack/react-query";

import { ApiError } from "../client";

// What has changed is drawn at once, not a turn of the browser's clock later: an edit is on the screen a frame or two sooner.
notifyManager.setScheduler(queueMicrotask);

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
