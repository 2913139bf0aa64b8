/** The list of a choice, as it opens. Loaded when the first one is pressed. */
import { Listbox, ListboxButton, ListboxOption, ListboxOptions, Portal } from "@headlessui/react";
import { useEffect, useRef } from "react";

import { BUTTON_LOOK, type ChoiceProps, OpensSign } from "./Choice";

/** In pixels: as CSS variables they would be measured at every opening and closing, over the whole page. Nor is the
 * rest of the page shut off meanwhile: that lays it all out anew, twice a choice. */
const ANCHOR = { to: "bottom end", gap: 2, offset: 0, padding: 8 } as const;

type Props<T extends string> = ChoiceProps<T> & { hintId: string | undefined; onUse: () => void; startsOpen: boolean };

/** ``startsOpen``: it was pressed before this was loaded. */
export function ListedChoice<T extends string>({
  label,
  value,
  options,
  onChange,
  hintId,
  onUse,
  startsOpen,
}: Props<T>) {
  const button = useRef<HTMLButtonElement>(null);
  // The list belongs to the same part of the page as its button, for whoever goes from part to part by ear.
  const part = useRef<HTMLElement>(null);
  useEffect(() => {
    part.current = button.current?.closest<HTMLElement>("main, [role=dialog]") ?? document.body;
  }, []);
  useEffect(() => {
    if (!startsOpen) return;
    button.current?.focus();
    button.current?.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowDown", bubbles: true }));
  }, [startsOpen]);
  const shown = options.find(([key]) => key === value)?.[1] ?? value;
  return (
    <Listbox
      value={value}
      onChange={(next) => {
        onUse();
        onChange(next);
      }}
    >
      <ListboxButton ref={button} aria-label={`${label}: ${shown}`} aria-describedby={hintId} className={BUTTON_LOOK}>
        <span className="truncate">{shown}</span>
        <OpensSign />
      </ListboxButton>
      <Portal.Group target={part}>
        <ListboxOptions
          modal={false}
          anchor={ANCHOR}
          className="z-50 max-h-72 overflow-auto rounded-lg border border-ink bg-card py-1 shadow-lg"
        >
          {options.map(([key, words]) => (
            <ListboxOption
              key={key}
              value={key}
              className="flex min-h-9 cursor-pointer items-center px-3 data-focus:bg-here data-selected:font-bold pointer-coarse:min-h-11"
            >
              {words}
            </ListboxOption>
          ))}
        </ListboxOptions>
      </Portal.Group>
    </Listbox>
  );
}
