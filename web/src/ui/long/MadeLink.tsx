/** A link to a file that takes a moment to make: says that it is being made, and can be left. */
import { type MouseEvent, type ReactNode, useEffect, useRef, useState } from "react";

import { madeFile } from "../../api/queries/jobs";
import { Button, Problem } from "../kit";

type Props = { href: string; children: ReactNode; className?: string; download?: boolean };
type State = { at: "idle" | "making" | "ready" } | { at: "failed"; error: unknown };

/** Shorter than this nobody needs to be told. */
const SOON_MS = 300;

/** ``download``: the file is saved, otherwise shown in a tab of its own. */
export function MadeLink(props: Props) {
  return <Link key={props.href} {...props} />;
}

function Link({ href, children, className = "underline", download = false }: Props) {
  const [state, setState] = useState<State>({ at: "idle" });
  const leave = useRef<AbortController>(undefined);
  useEffect(() => () => leave.current?.abort(), []);

  const onClick = (event: MouseEvent) => {
    if (event.ctrlKey || event.metaKey || event.shiftKey || state.at === "ready") return;
    event.preventDefault();
    leave.current?.abort();
    const asked = (leave.current = new AbortController());
    const late = window.setTimeout(() => setState({ at: "making" }), SOON_MS);
    madeFile(href, asked.signal, () => undefined)
      .then(() => setState(shown(href, download) ? { at: "idle" } : { at: "ready" }))
      .catch((error: unknown) => setState(asked.signal.aborted ? { at: "idle" } : { at: "failed", error }))
      .finally(() => clearTimeout(late));
  };
  const target = download ? { download: true } : { target: "_blank", rel: "noreferrer" };
  return (
    <>
      <a className={className} href={href} onClick={onClick} {...target}>
        {state.at === "ready" ? <>Ready: {children}</> : children}
      </a>
      {state.at === "making" ? (
        <span role="status" className="ml-2 text-sm text-quiet">
          being made …{" "}
          <Button look="quiet" onClick={() => leave.current?.abort()}>
            Leave it
          </Button>
        </span>
      ) : null}
      {state.at === "failed" ? <Problem error={state.error} /> : null}
    </>
  );
}

/** Saves or shows what is there now; ``false``: the browser lets no tab be opened any more, and the link must do. */
function shown(href: string, download: boolean): boolean {
  if (!download)
    return window.open(href, "_blank", "noreferrer") !== null || navigator.userActivation?.isActive !== false;
  const link = document.createElement("a");
  link.href = href;
  link.download = "";
  link.click();
  return true;
}
