/** What this device remembers, read as if somebody had damaged it: what does not fit its schema is not there. */
import type * as z from "zod/mini";

export function readStored<T>(key: string, schema: z.ZodMiniType<T>): T | null {
  const found = schema.safeParse(parsed(key));
  return found.success ? found.data : null;
}

/** The parts of an object that fit, over a start that has all of them: one damaged part does not lose the others. */
export function readParts<T extends object>(
  key: string,
  schemas: { [K in keyof T]: z.ZodMiniType<T[K]> },
  start: T,
): T {
  const raw = parsed(key);
  if (typeof raw !== "object" || raw === null) return start;
  const result = { ...start };
  for (const name of Object.keys(schemas) as (keyof T & string)[]) {
    if (!(name in raw)) continue;
    const part = schemas[name].safeParse((raw as Record<string, unknown>)[name]);
    if (part.success) result[name] = part.data;
  }
  return result;
}

/** What this device could not keep, for as long as the page is open. */
const unkept = new Map<string, string>();

/** Whether it could be kept: a device may have no room, or allow no storage. Until the page is left it is known. */
export function keep(key: string, value: unknown): boolean {
  const text = JSON.stringify(value);
  unkept.delete(key);
  try {
    localStorage.setItem(key, text);
    return true;
  } catch {
    unkept.set(key, text);
    return false;
  }
}

export function forget(key: string): void {
  unkept.delete(key);
  try {
    localStorage.removeItem(key);
  } catch {
    // nothing was kept
  }
}

/** What stands there, whatever it is; null where there is nothing that can be read. */
export function parsed(key: string): unknown {
  try {
    return JSON.parse(unkept.get(key) ?? localStorage.getItem(key) ?? "null");
  } catch {
    return null;
  }
}
