/** The frame: places, unsent takes, help with the keys. */
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { QueryClientProvider } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { BrowserRouter, Link, NavLink, Navigate, Route, Routes } from "react-router";

import { queryClient } from "./api/queries/client";
import { sendTake } from "./api/queries/takes";
import { NowPlaying } from "./features/play_along/NowPlaying";
import { Shelf } from "./features/pieces/Shelf";
import { Settings } from "./features/settings/Settings";
import { TakePage } from "./features/takes/TakePage";
import { WorkspacePage } from "./features/workspace/Workspace";
import { forgetPending, pendingTakes } from "./session/pending";
import { count } from "./lib/words";
import { Button, Problem, ToastShelf } from "./ui/kit";

export function App() {
  return (
    <QueryClientProvider client={queryClient}>
      <BrowserRouter>
        <ToastShelf>
          <Head />
          <Unsent />
          <Routes>
            <Route path="/" element={<Navigate to="/pieces" replace />} />
            <Route path="/pieces" element={<Shelf />} />
            <Route path="/pieces/:pieceId" element={<WorkspacePage />} />
            <Route path="/pieces/:pieceId/takes/:takeId" element={<TakePage />} />
            <Route path="/settings" element={<Settings />} />
            <Route path="*" element={<Nowhere />} />
          </Routes>
          <NowPlaying />
        </ToastShelf>
      </BrowserRouter>
    </QueryClientProvider>
  );
}

function Head() {
  const [help, setHelp] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      if (event.key === "?" && !target?.closest("input, textarea, select")) setHelp(true);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <header className="flex items-baseline gap-6 border-b border-line px-4 py-2 md:px-6">
      <Link to="/pieces" className="text-xl font-bold">
        Lap Tick
      </Link>
      <nav aria-label="Places">
        <ul className="flex gap-5">
          {(
            [
              ["/pieces", "Pieces"],
              ["/settings", "Settings"],
            ] as const
          ).map(([to, words]) => (
            <li key={to}>
              <NavLink
                to={to}
                className={({ isActive }) =>
                  `pb-1 ${isActive ? "border-b-3 border-ink font-bold" : "text-quiet hover:text-ink"}`
                }
              >
                {words}
              </NavLink>
            </li>
          ))}
        </ul>
      </nav>
      <button type="button" className="ml-auto text-quiet underline" onClick={() => setHelp(true)}>
        Keys <kbd>?</kbd>
      </button>
      <Dialog open={help} onClose={setHelp} className="relative z-20">
        <div className="fixed inset-0 bg-ink/40" aria-hidden />
        <div className="fixed inset-0 grid place-items-center p-4">
          <DialogPanel className="w-full max-w-md rounded-xl border-2 border-ink bg-card p-5">
            <DialogTitle className="mb-2 text-xl font-bold">Keys in a piece</DialogTitle>
            <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
              {KEYS.map(([key, words]) => (
                <div key={key} className="contents">
                  <dt>
                    <kbd className="rounded border border-ink px-1.5">{key}</kbd>
                  </dt>
                  <dd>{words}</dd>
                </div>
              ))}
            </dl>
            <Button className="mt-4" onClick={() => setHelp(false)}>
              Close
            </Button>
          </DialogPanel>
        </div>
      </Dialog>
    </header>
  );
}

const KEYS = [
  ["Space", "play along, and stop"],
  ["R", "record a take"],
  ["F", "tap with the left hand"],
  ["J", "tap with the right hand"],
  ["← →", "work on the bar before or after"],
  ["↑ ↓", "one metronome mark faster or slower"],
  ["T", "tap the tempo, three times or more"],
  ["L", "over and over, or once"],
  ["1 … 6", "silence count, click, backing, right hand, left hand, cue words; and back"],
  ["Esc", "throw a take away; back to the whole piece"],
  ["← → ↑ ↓", "in Pencil: from note to note; Shift for a stretch"],
  ["Enter", "in Pencil: correct the chosen note"],
  ["Delete", "in Pencil: take it out"],
  ["Ctrl Z, Ctrl Y", "in Pencil: undo, redo"],
  ["?", "this list"],
] as const;

/** Takes that were tapped while the server was away wait on this device; here they are sent. */
function Unsent() {
  const [waiting, setWaiting] = useState(() => pendingTakes());
  const [problem, setProblem] = useState<unknown>(null);
  if (!waiting.length) return null;
  const sendAll = async () => {
    setProblem(null);
    for (const one of waiting) {
      try {
        await sendTake(one.pieceId, one.take);
        forgetPending(one.take.client_key);
      } catch (error) {
        setProblem(error);
        break;
      }
    }
    setWaiting(pendingTakes());
    await queryClient.invalidateQueries();
  };
  return (
    <div role="status" className="flex flex-wrap items-center gap-4 border-b border-line bg-here px-4 py-2 md:px-6">
      <span>
        {count(waiting.length, "take")} on this device {waiting.length === 1 ? "is" : "are"} not stored yet.
      </span>
      <Button look="quiet" onClick={() => void sendAll()}>
        Send {waiting.length === 1 ? "it" : "them"} now
      </Button>
      <Button
        look="quiet"
        onClick={() => {
          for (const one of waiting) forgetPending(one.take.client_key);
          setWaiting([]);
        }}
      >
        Throw away
      </Button>
      {problem ? <Problem error={problem} /> : null}
    </div>
  );
}

function Nowhere() {
  return (
    <main className="p-6">
      <h1 className="text-2xl font-bold">There is nothing at this address.</h1>
      <Link className="underline" to="/pieces">
        To the pieces
      </Link>
    </main>
  );
}
