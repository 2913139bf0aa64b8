/** Small parts shared by the screens: buttons, choices, errors, notes that vanish. */
import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";
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
  plain: "border-2 border-ink bg-card text-ink hover:bg-here disabled:border-line disabled:text-quiet",
  quiet: "text-ink underline decoration-line decoration-2 underline-offset-4 hover:decoration-ink",
};

type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement> & { look?: keyof typeof LOOKS; keys?: string };

/** ``keys`` names the key that does the same. */
export function Button({ look = "plain", keys, className = "", children, ...rest }: ButtonProps) {
  const size = look === "quiet" ? "px-1 py-0.5" : "px-4 py-2 rounded-lg";
  return (
    <button type="button" {...rest} className={`${LOOKS[look]} ${size} font-bold ${className}`}>
      {children}
      {keys ? (
        <kbd className="ml-2 rounded border border-current px-1.5 text-sm font-normal max-md:hidden">{keys}</kbd>
      ) : null}
    </button>
  );
}

/** In pixels: as CSS variables they would be measured at every opening and closing, over the whole page. Nor is the
 * rest of the page shut off meanwhile: that lays it all out anew, twice a choice. */
const ANCHOR = { to: "bottom end", gap: 2, offset: 0, padding: 8 } as const;

export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  hideLabel = false,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
  hideLabel?: boolean;
}) {
  const shown = options.find(([key]) => key === value)?.[1] ?? value;
  return (
    <Listbox value={value} onChange={onChange}>
      <div className="relative flex items-center gap-2">
        {hideLabel ? null : <span className="text-quiet">{label}</span>}
        <ListboxButton
          aria-label={`${label}: ${shown}`}
          className="min-w-0 flex-1 truncate rounded-md border border-line bg-card px-3 py-1.5 text-left hover:border-ink"
        >
          {shown}
        </ListboxButton>
        <ListboxOptions
          modal={false}
          anchor={ANCHOR}
          className="z-30 max-h-72 overflow-auto rounded-md border border-ink bg-card py-1 shadow-lg"
        >
          {options.map(([key, words]) => (
            <ListboxOption
              key={key}
              value={key}
              className="cursor-pointer px-3 py-1.5 data-focus:bg-here data-selected:font-bold"
            >
              {words}
            </ListboxOption>
          ))}
        </ListboxOptions>
      </div>
    </Listbox>
  );
}

/** What happened, what was kept, what to do. */
export function Problem({ error, children }: { error: unknown; children?: ReactNode }) {
  const ours = error instanceof ApiError;
  const what = ours ? error.message : "Something went wrong in this page.";
  return (
    <div role="alert" className="rounded-lg border-2 border-warn bg-card p-3">
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
    <p role="status" className="p-6 text-quiet">
      {what} …
    </p>
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
        className="pointer-events-none fixed inset-x-0 bottom-4 z-40 flex flex-col items-center gap-2 px-3 max-md:top-2 max-md:bottom-auto"
      >
        {shelf.map((toast) => (
          <div
            key={toast.id}
            className="pointer-events-auto flex items-center gap-4 rounded-lg bg-ink px-4 py-2 text-card shadow-lg"
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
