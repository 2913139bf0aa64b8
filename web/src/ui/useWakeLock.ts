/** The screen stays awake while somebody plays: hands are on the keys. */
import { useEffect } from "react";

export function useWakeLock(isWanted: boolean): void {
  useEffect(() => {
    if (!isWanted || !("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | null = null;
    let isOver = false;
    const ask = () =>
      navigator.wakeLock.request("screen").then(
        (got) => {
          if (isOver) void got.release();
          else lock = got;
        },
        () => undefined, // refused, on a low battery for instance: it goes on all the same
      );
    // A page that was left loses it; come back, it is asked for again.
    const back = () => {
      if (document.visibilityState === "visible") void ask();
    };
    void ask();
    document.addEventListener("visibilitychange", back);
    return () => {
      isOver = true;
      document.removeEventListener("visibilitychange", back);
      void lock?.release();
    };
  }, [isWanted]);
}
