/** A place that could not be opened: named, with what happened and the way out. */
import type { ReactNode } from "react";
import { Link } from "react-router";

import { Problem } from "./kit";
import { Titled } from "./Titled";

type Props = { title: string; error: unknown; children?: ReactNode };

export function ProblemPlace({ title, error, children }: Props) {
  return (
    <main id="main" className="grid max-w-3xl gap-5 p-5 md:p-8">
      <Titled title={title} />
      <h1 className="text-2xl font-bold">{title}</h1>
      <Problem error={error}>{children}</Problem>
    </main>
  );
}

/** The way out of such a place. */
export function WayOut({ to, children }: { to: string; children: ReactNode }) {
  return (
    <Link className="inline-flex min-h-11 items-center font-bold underline" to={to}>
      {children}
    </Link>
  );
}
