/** The frame: places, unsent takes, help with the shortcuts. A place is loaded when it is gone to. */
import { QueryClientProvider } from "@tanstack/react-query";
import { Suspense, lazy, useEffect, useRef, useSyncExternalStore } from "react";
import { BrowserRouter, Link, NavLink, Navigate, Route, Routes, useLocation } from "react-router";

import { queryClient } from "./api/queries/client";
import { useAskMe } from "./api/queries/me";
import { Unsent } from "./features/unsent/Unsent";
import { loaded, serverAway, sessionBegun } from "./lib/loading";
import { MeContext, useIsTeacher, useMe } from "./api/me";
import { WayOut } from "./ui/ProblemPlace";
import { Titled } from "./ui/Titled";
import { LoadingPlace, Problem, ToastShelf } from "./ui/kit";

const Aside = lazy(() => loaded(() => import("./features/frame/Aside")).then((it) => ({ default: it.Aside })));
const MachineWarning = lazy(() =>
  loaded(() => import("./features/frame/MachineWarning")).then((it) => ({ default: it.MachineWarning })),
);
const Guide = lazy(() => loaded(() => import("./features/guide/Guide")).then((it) => ({ default: it.Guide })));
const NowPlaying = lazy(() =>
  loaded(() => import("./features/play_along/NowPlaying")).then((it) => ({ default: it.NowPlaying })),
);
const Door = lazy(() => loaded(() => import("./features/door/Door")).then((it) => ({ default: it.Door })));
const ComeIn = lazy(() => loaded(() => import("./features/door/ComeIn")).then((it) => ({ default: it.ComeIn })));
const Shelf = lazy(() => loaded(() => import("./features/pieces/Shelf")).then((it) => ({ default: it.Shelf })));
const Students = lazy(() =>
  loaded(() => import("./features/students/Students")).then((it) => ({ default: it.Students })),
);
const StudentPage = lazy(() =>
  loaded(() => import("./features/students/StudentPage")).then((it) => ({ default: it.StudentPage })),
);
const Tonight = lazy(() => loaded(() => import("./features/tonight/Tonight")).then((it) => ({ default: it.Tonight })));
const Drills = lazy(() => loaded(() => import("./features/drills/Drills")).then((it) => ({ default: it.Drills })));
const Settings = lazy(() =>
  loaded(() => import("./features/settings/Settings")).then((it) => ({ default: it.Settings })),
);
const TakePage = lazy(() => loaded(() => import("./features/takes/TakePage")).then((it) => ({ default: it.TakePage })));
const WorkspacePage = lazy(() =>
  loaded(() => import("./features/workspace/Workspace")).then((it) => ({ default: it.WorkspacePage })),
);

export function App() {
  return (
    <QueryClientProvider client={queryClient}>
      <BrowserRouter>
        <ToastShelf>
          <a
            href="#main"
            data-screen-only=""
            className="absolute left-3 z-50 -translate-y-20 rounded-lg bg-ink px-5 py-2 font-bold text-card focus:translate-y-2"
            onClick={(event) => {
              event.preventDefault();
              goToHeading();
            }}
          >
            To what this page is about
          </a>
          <Suspense fallback={<LoadingPlace title="Lap Tick" what="Opening" />}>
            <Inside />
          </Suspense>
        </ToastShelf>
      </BrowserRouter>
    </QueryClientProvider>
  );
}

/** Who is signed in is shown what is theirs; everybody else stands at the door. */
function Inside() {
  const asked = useAskMe();
  const me = asked.data;
  if (!me)
    return asked.error ? (
      <main id="main" className="p-8">
        <h1 className="mb-3 text-2xl font-bold">Lap Tick could not start</h1>
        <Problem error={asked.error} />
      </main>
    ) : (
      <LoadingPlace title="Lap Tick" what="Opening" />
    );
  if (me.role === "nobody") return <Door me={me} />;
  return (
    <MeContext.Provider value={me}>
      <Head />
      <Away />
      <Unsent />
      <Suspense>
        <MachineWarning />
      </Suspense>
      <Suspense fallback={<LoadingPlace title="Lap Tick" what="Opening" />}>
        <Places student={me.student_id} />
      </Suspense>
      <Arrival />
      <Playing />
    </MeContext.Provider>
  );
}

/** What is the teacher's, and what is of whoever came by a personal link: tonight, and what it leads to. */
function Places({ student }: { student: number | null }) {
  const first = student === null ? "/pieces" : `/students/${student}/tonight`;
  return (
    <Routes>
      <Route path="/come" element={<ComeIn />} />
      <Route path="/pieces/:pieceId" element={<WorkspacePage />} />
      <Route path="/pieces/:pieceId/takes/:takeId" element={<TakePage />} />
      <Route path="/students/:studentId/tonight" element={<Tonight />} />
      <Route path="/guide/:for?" element={<Guide />} />
      {student === null ? (
        <>
          <Route path="/pieces" element={<Shelf />} />
          <Route path="/students" element={<Students />} />
          <Route path="/students/:studentId" element={<StudentPage />} />
          <Route path="/drills/:kind?" element={<Drills />} />
          <Route path="/settings/:page?" element={<Settings />} />
        </>
      ) : null}
      {(student === null ? ["/"] : ["/", "/pieces", "/students"]).map((path) => (
        <Route key={path} path={path} element={<Navigate to={first} replace />} />
      ))}
      <Route path="*" element={<Nowhere />} />
    </Routes>
  );
}

/** A place that is waited for is not there to say so, and the one that was left is still shown. */
function Away() {
  const isAway = useSyncExternalStore(serverAway.subscribe, serverAway.now);
  return isAway ? (
    <p role="status" className="bg-here px-5 py-2 font-semibold" data-screen-only="">
      Lap Tick’s server does not answer. What you asked for opens by itself when it does.
    </p>
  ) : null;
}

/** What plays on while another place is shown; before anything was ever begun there is nothing to look after. */
function Playing() {
  const begun = useSyncExternalStore(sessionBegun.subscribe, sessionBegun.now);
  return begun ? (
    <Suspense>
      <NowPlaying />
    </Suspense>
  ) : null;
}

function goToHeading(): boolean {
  const heading = document.querySelector<HTMLElement>("main h1");
  if (!heading) return false;
  heading.tabIndex = -1;
  heading.focus();
  return true;
}

/**
 * Whoever goes to another place begins at its heading: it takes the focus as soon as it is there. A place that is drawn
 * in steps takes it with it when a step is taken away; then the next heading has it, until somebody does something.
 */
function Arrival() {
  const { pathname } = useLocation();
  const came = useRef(pathname);
  useEffect(() => {
    if (came.current === pathname) return;
    came.current = pathname;
    window.scrollTo(0, 0);
    let isThere = false;
    const look = new MutationObserver(() => {
      if (!isThere || document.activeElement === document.body) isThere = goToHeading();
    });
    look.observe(document.body, { childList: true, subtree: true });
    const act = () => void (isThere && look.disconnect());
    const acts = ["keydown", "pointerdown"] as const;
    for (const one of acts) addEventListener(one, act);
    isThere = goToHeading();
    return () => {
      look.disconnect();
      for (const one of acts) removeEventListener(one, act);
    };
  }, [pathname]);
  return null;
}

const PLACES = [
  ["/students", "Students"],
  ["/pieces", "Pieces"],
  ["/drills", "Drills"],
  ["/settings", "Settings"],
] as const;

function Head() {
  const me = useMe();
  const isTeacher = useIsTeacher();
  const places = isTeacher ? PLACES : ([[`/students/${me.student_id}/tonight`, "Tonight"]] as const);
  return (
    <header
      className="flex items-stretch gap-0.5 border-b border-line px-2 sm:gap-5 sm:px-3 md:gap-8 md:px-8"
      data-screen-only=""
    >
      <Link
        to="/"
        tabIndex={isTeacher ? -1 : undefined} // by keyboard her pieces, where it leads, are one stop on
        className={[
          "flex min-h-11 items-center text-lg font-bold whitespace-nowrap",
          isTeacher ? "max-[430px]:hidden" : "", // her places need the room
        ].join(" ")}
      >
        Lap Tick
      </Link>
      <nav aria-label="Places" className="flex">
        <ul className="flex sm:gap-3 md:gap-5">
          {places.map(([to, words]) => (
            <li key={to} className="flex">
              <NavLink
                to={to}
                className={({ isActive }) =>
                  [
                    "flex min-h-11 min-w-11 items-center border-y-3 border-t-transparent px-1",
                    isActive ? "border-b-ink font-bold" : "border-b-transparent text-quiet hover:text-ink",
                  ].join(" ")
                }
              >
                {words}
              </NavLink>
            </li>
          ))}
        </ul>
      </nav>
      <Suspense>
        <Aside />
      </Suspense>
    </header>
  );
}

function Nowhere() {
  const isTeacher = useIsTeacher();
  return (
    <main id="main" className="p-8">
      <Titled title="Nothing here" />
      <h1 className="text-2xl font-bold">There is nothing at this address.</h1>
      {isTeacher ? <WayOut to="/pieces">To the pieces</WayOut> : <WayOut to="/">To tonight</WayOut>}
    </main>
  );
}
