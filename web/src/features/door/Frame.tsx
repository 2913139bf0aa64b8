/** What stands before the studio: one card with one thing to do. */
import type { ReactNode } from "react";

import { Titled } from "../../ui/Titled";

export function Frame({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main id="main" className="mx-auto max-w-lg px-4 pt-8 pb-13 md:pt-20">
      <Titled title={title} />
      <p className="mb-5 text-lg font-bold">Lap Tick</p>
      <h1 tabIndex={-1} className="mb-3 text-3xl font-bold focus:outline-none">
        {title}
      </h1>
      {children}
    </main>
  );
}

type FieldProps = {
  label: string;
  value: string;
  onChange: (value: string) => void;
  type?: "text" | "password";
  /** What a browser's own store of passwords knows it by. */
  autoComplete: string;
  hint?: string;
  isOptional?: boolean;
  /** It is what is typed first. */
  isFirst?: boolean;
  isNumber?: boolean;
};

export function Field({ label, value, onChange, hint, isOptional, isFirst, isNumber, ...rest }: FieldProps) {
  return (
    <label className="mb-3 block">
      <span className="block">{label}</span>
      {hint ? <span className="block text-sm text-quiet">{hint}</span> : null}
      <input
        {...rest}
        required={!isOptional}
        autoFocus={isFirst}
        value={value}
        maxLength={200}
        {...(isNumber ? { inputMode: "numeric" as const } : {})}
        onChange={(event) => onChange(event.target.value)}
        className="mt-1 min-h-12 w-full rounded-lg border border-edge bg-card px-3 text-lg"
      />
    </label>
  );
}
