/** The play-along's choices of one piece, kept; and a restart when what is playing is to sound otherwise. */
import { useEffect, useRef, useState } from "react";

import type { Schemas } from "../api/client";
import type { PracticeSession, State } from "./practice";
import { type PlayChoice, keepChoice, readChoice } from "./choice";

export function usePlayChoice(pieceId: number, usual: Schemas["PlayOptions"]["levels"]) {
  const [choice, set] = useState<PlayChoice>(() => readChoice(pieceId, usual));
  const change = (part: Partial<PlayChoice>) =>
    set((old) => {
      const next = { ...old, ...part };
      keepChoice(pieceId, next);
      return next;
    });
  return [choice, change] as const;
}

const SETTLE_MS = 350;

/** Another tempo, passage or order while it plays: it counts in anew with it, once the choosing has settled. */
export function useRestart(session: PracticeSession, state: State, pieceId: number, wanted: string): void {
  const playing = useRef<string | null>(null);
  const mine = state.phase === "playing" && state.playing?.pieceId === pieceId;
  useEffect(() => {
    if (!mine) {
      playing.current = null;
      return;
    }
    if (playing.current === null) {
      playing.current = wanted;
      return;
    }
    if (playing.current === wanted) return;
    const timer = setTimeout(() => {
      playing.current = wanted;
      session.play();
    }, SETTLE_MS);
    return () => clearTimeout(timer);
  }, [mine, wanted, session]);
}
