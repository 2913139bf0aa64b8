import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { App } from "./App";
import { loadTrade } from "./api/trade";
import "./index.css";
import { unfoldOnPaper } from "./lib/printing";
import { Problem } from "./ui/kit";

unfoldOnPaper();
const element = document.getElementById("root");
if (element) {
  const root = createRoot(element);
  loadTrade().then(
    () =>
      root.render(
        <StrictMode>
          <App />
        </StrictMode>,
      ),
    (error: unknown) =>
      root.render(
        <main className="grid gap-5 p-8">
          <h1 className="text-2xl font-bold">Lap Tick could not start</h1>
          <Problem error={error}>
            <button type="button" className="mt-2 font-bold underline" onClick={() => location.reload()}>
              Try again
            </button>
          </Problem>
        </main>,
      ),
  );
}
