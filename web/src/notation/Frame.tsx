/** A frame laid over something on the engraved page. */
import type { Box } from "./useEngraved";

export function Frame({
  box,
  className,
  pad = 3,
  isPicked = false,
  data,
}: {
  box: Box | undefined;
  className: string;
  pad?: number;
  isPicked?: boolean;
  data?: string;
}) {
  if (!box) return null;
  return (
    <span
      aria-hidden
      data-picked={isPicked ? "" : undefined}
      data-pencilled={data}
      className={`pointer-events-none absolute ${className}`}
      style={{ left: box.left - pad, top: box.top - pad, width: box.width + 2 * pad, height: box.height + 2 * pad }}
    />
  );
}
