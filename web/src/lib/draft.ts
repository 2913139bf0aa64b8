/** What is typed but not stored yet: kept in this tab, so that a reload does not lose it. */
import { useState } from "react";

const PREFIX = "laptick.draft.";

function read(key: string): string | null {
  try {
    return sessionStorage.getItem(PREFIX + key);
  } catch {
    return null;
  }
}

function write(key: string, value: string | null): void {
  try {
    if (value === null) sessionStorage.removeItem(PREFIX + key);
    else sessionStorage.setItem(PREFIX + key, value);
  } catch {
    // Without storage the text still stands in its field.
  }
}

/** A text and how to set it; ``null``: nothing was typed. The component should be keyed by what ``key`` names. */
export function useDraft(key: string): [string | null, (value: string | null) => void] {
  const [value, setValue] = useState(() => read(key));
  const set = (next: string | null) => {
    write(key, next);
    setValue(next);
  };
  return [value, set];
}
