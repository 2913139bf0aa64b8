/** Small parts shared by the screens: buttons, choices, errors, notes that vanish. */
import {
  type ButtonHTMLAttributes,
  type ReactNode,
  createContext,
  useCallback,
  useContext,
  useMemo,
  useRef,
  useState,
} from "react";

import { ApiError } from "../api/client";

const LOOKS = {
  strong: "bg-ink text-card hover:bg-black disabled:bg-quiet",
  plain: "border border-edge bg-card text-ink hover:bg-here disabled:border-line disabled:text-quiet",
  quiet: "text-ink underline decoration-edge underline-offset-4 hover:decoration-ink hover:decoration-2",
};

type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement> & { look?: keyof typeof LOOKS; keys?: string };

/** ``keys`` names the key that does the same. */
export function Button({ look = "plain", keys, className = "", children, ...rest }: ButtonProps) {
  const size = look === "quiet" ? "px-1 min-h-8" : "px-5 min-h-10 rounded-lg";
  return (
    <button
      type="button"
      {...rest}
      className={`${LOOKS[look]} ${size} font-semibold pointer-coarse:min-h-11 pointer-coarse:min-w-11 ${className}`}
    >
      {children}
      {keys ? (
        <kbd className="ml-2 rounded-sm border border-current px-1 text-sm font-normal max-md:hidden pointer-coarse:hidden">
          {keys}
        </kbd>
      ) : null}
    </button>
  );
}

/** On: full; off: empty. */
export function Dot({ isOn }: { isOn: boolean }) {
  return (
    <span
      aria-hidden
      className={`inline-block size-3 shrink-0 rounded-full border-2 border-ink ${isOn ? "bg-ink" : "bg-transparent"}`}
    />
  );
}

/** What happened, what was kept, what to do. */
export function Problem({ error, children }: { error: unknown; children?: ReactNode }) {
  const ours = error instanceof ApiError;
  const what = ours ? error.message : "Something went wrong in this page.";
  return (
    <div role="alert" className="rounded-lg border-2 border-warn bg-card p-3 wrap-anywhere">
      <p className="font-bold first-letter:uppercase">{what}</p>
      {ours && error.where ? <p className="text-quiet">Where: {error.where}</p> : null}
      {ours && error.kept ? <p>{error.kept}</p> : null}
      {ours && error.todo ? <p>{error.todo}</p> : null}
      {children}
    </div>
  );
}

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="p-8 text-quiet">
      {what} …
    </p>
  );
}

/** A place that is not there yet: named, so that a reader knows where he is. */
export function LoadingPlace({ title, what }: { title: string; what: string }) {
  return (
    <main id="main">
      <h1 className="sr-only">{title}</h1>
      <Loading what={what} />
    </main>
  );
}

type Toast = { id: number; text: string; undo?: () => void };
const Toasts = createContext<(text: string, undo?: () => void) => void>(() => undefined);

/** Says what was done, with a way back. */
export const useToast = () => useContext(Toasts);

const TOAST_MS = 9000;

export function ToastShelf({ children }: { children: ReactNode }) {
  const [shown, setShown] = useState<Toast[]>([]);
  const next = useRef(0);
  const say = useCallback((text: string, undo?: () => void) => {
    const id = next.current++;
    setShown((all) => [...all.slice(-2), undo ? { id, text, undo } : { id, text }]);
    setTimeout(() => setShown((all) => all.filter((one) => one.id !== id)), TOAST_MS);
  }, []);
  const shelf = useMemo(() => shown, [shown]);
  return (
    <Toasts.Provider value={say}>
      {children}
      <div
        role="status"
        aria-live="polite"
        className="pointer-events-none fixed inset-x-0 top-2 z-50 flex flex-col items-center gap-2 px-3"
      >
        {shelf.map((toast) => (
          <div
            key={toast.id}
            className="pointer-events-auto flex items-center gap-5 rounded-lg bg-ink px-5 py-2 text-card shadow-lg"
          >
            <span>{toast.text}</span>
            {toast.undo ? (
              <button
                type="button"
                className="font-bold underline"
                onClick={() => {
                  toast.undo?.();
                  setShown((all) => all.filter((one) => one.id !== toast.id));
                }}
              >
                Undo
              </button>
            ) : null}
          </div>
        ))}
      </div>
    </Toasts.Provider>
  );
}
