/** The name of a view as the browser shows it. */
import { useEffect } from "react";

export function Titled({ title }: { title: string }) {
  useEffect(() => {
    document.title = `${title} · Lap Tick`;
  }, [title]);
  return null;
}
