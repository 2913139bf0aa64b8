/** What can be done with a thing, behind one sign: a short list, without what a long one would need. */
import { useId, useRef, useState } from "react";

export function More({ label, items }: { label: string; items: readonly (readonly [string, () => void])[] }) {
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  const button = useRef<HTMLButtonElement>(null);
  const id = useId();
  const close = () => {
    setOpen(false);
    button.current?.focus();
  };
  return (
    <div
      ref={box}
      className="relative z-10"
      onBlur={(event) => {
        if (!box.current?.contains(event.relatedTarget)) setOpen(false);
      }}
      onKeyDown={(event) => {
        if (event.key !== "Escape" || !open) return;
        event.stopPropagation();
        close();
      }}
    >
      <button
        ref={button}
        type="button"
        aria-label={label}
        aria-haspopup="menu"
        aria-expanded={open}
        aria-controls={id}
        onClick={() => setOpen(!open)}
        className={[
          "inline-flex size-9 items-center justify-center rounded-full text-quiet",
          "hover:bg-here hover:text-ink pointer-coarse:size-11",
        ].join(" ")}
      >
        <svg aria-hidden viewBox="0 0 16 16" width="16" height="16" fill="currentColor">
          <circle cx="3" cy="8" r="1.6" />
          <circle cx="8" cy="8" r="1.6" />
          <circle cx="13" cy="8" r="1.6" />
        </svg>
      </button>
      <div
        id={id}
        role="menu"
        hidden={!open}
        className="absolute right-0 z-30 min-w-max rounded-lg border border-ink bg-card py-1 shadow-lg"
      >
        {items.map(([words, onPress]) => (
          <button
            key={words}
            type="button"
            role="menuitem"
            className="flex min-h-9 w-full items-center px-5 text-left hover:bg-here pointer-coarse:min-h-11"
            onClick={() => {
              close();
              onPress();
            }}
          >
            {words}
          </button>
        ))}
      </div>
    </div>
  );
}
