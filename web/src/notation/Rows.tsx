/** The lines of an engraved page: drawn where they are in sight, room kept for the others. */
import { memo } from "react";

import type { Page } from "./useRows";

export function Rows({ page, label }: { page: Page; label?: string }) {
  const told = label === undefined ? { "aria-hidden": true } : { role: "img", "aria-label": label };
  return (
    <div className="notation" {...told}>
      {page.shares.map((share, row) => (
        <Row key={row} row={row} share={share} svg={page.svgs.get(row)} />
      ))}
    </div>
  );
}

const Row = memo(function Row({ row, share, svg }: { row: number; share: number; svg: string | undefined }) {
  const look = { "data-row": row, style: { aspectRatio: `1 / ${share}` } };
  // The server draws it and lets nothing through but shapes and texts.
  return svg ? <div {...look} dangerouslySetInnerHTML={{ __html: svg }} /> : <div {...look} />;
});
