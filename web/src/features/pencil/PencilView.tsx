/** The teacher's pencil: a note or rest is chosen on the page and corrected beside it. The score as it came is kept;
 * every change is listed, and can be taken away. */
import { type KeyboardEvent, useEffect, useMemo, useState } from "react";

import type { Pencil, Piece, WrittenItem } from "../../api/client";
import { type PencilAct, useChangePencil, usePencil } from "../../api/queries/score";
import { useDraft } from "../../lib/draft";
import { count } from "../../lib/words";
import { Button, Loading, Problem } from "../../ui/kit";
import { EngravedPage } from "./EngravedPage";
import { NotePanel } from "./NotePanel";
import { StretchPanel } from "./StretchPanel";

export function PencilView({ piece }: { piece: Piece }) {
  const pencil = usePencil(piece.id);
  if (pencil.error && !pencil.data) return <Problem error={pencil.error} />;
  if (!pencil.data) return <Loading what="Opening the score" />;
  return <Desk piece={piece} pencil={pencil.data} />;
}

function Desk({ piece, pencil }: { piece: Piece; pencil: Pencil }) {
  const change = useChangePencil(piece.id);
  const [pickedId, setPickedId] = useDraft(`pencil.${piece.id}.picked`);
  const [anchorId, setAnchorId] = useState<string | null>(null);
  const [isExtending, setExtending] = useState(false);
  const byId = useMemo(() => new Map(pencil.items.map((item) => [item.id, item])), [pencil.items]);
  const [last, setLast] = useState<WrittenItem | undefined>(undefined);
  // A note that a change took away leaves the choice on what stands in its place.
  const picked =
    byId.get(pickedId ?? "") ??
    (last
      ? pencil.items.find((item) => item.hand === last.hand && item.onset_quarters >= last.onset_quarters)
      : undefined) ??
    pencil.items[0];
  const anchor = anchorId && anchorId !== picked?.id ? byId.get(anchorId) : undefined;

  /** Makes a change; true where it was made. What could not be made stays typed, and is said. */
  const { mutateAsync } = change;
  const act = async (what: PencilAct): Promise<boolean> => {
    if (change.isPending) return false;
    try {
      await mutateAsync({ version: pencil.version, ...what });
      return true;
    } catch {
      return false; // shown beside the note
    }
  };
  const pick = (id: string, extend: boolean) => {
    if (extend || isExtending) setAnchorId((old) => old ?? picked?.id ?? null);
    else setAnchorId(null);
    setExtending(false);
    setLast(byId.get(id));
    setPickedId(id);
    change.reset();
  };

  const leaveStretch = () => {
    setAnchorId(null);
    document.querySelector<HTMLElement>("[data-page]")?.focus({ preventScroll: true });
  };

  const onKey = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey || !picked) return;
    const index = pencil.items.indexOf(picked);
    const to = {
      ArrowRight: index + 1,
      ArrowLeft: index - 1,
      ArrowUp: sameInstant(pencil.items, index, -1),
      ArrowDown: sameInstant(pencil.items, index, 1),
      Home: 0,
      End: pencil.items.length - 1,
    }[event.key];
    if (to !== undefined) {
      event.preventDefault();
      const item = pencil.items[Math.max(0, Math.min(pencil.items.length - 1, to))];
      if (item) pick(item.id, event.shiftKey);
    } else if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      if (!picked.is_rest) void act({ do: "add", change: { kind: "remove", note: picked.id } });
    } else if (event.key === "Enter") {
      event.preventDefault();
      document.querySelector<HTMLInputElement>("[data-first-field]")?.select();
    } else if (event.key === "Escape") setAnchorId(null);
  };
  useUndoKeys(
    () => pencil.can_undo && void act({ do: "undo" }),
    () => pencil.can_redo && void act({ do: "redo" }),
  );

  return (
    <div className="grid gap-x-8 gap-y-5 lg:grid-cols-[minmax(0,1fr)_340px]">
      <div className="min-w-0">
        <div className="mb-3 flex flex-wrap items-center gap-3">
          <Button
            keys="Ctrl Z"
            className="py-1"
            disabled={!pencil.can_undo || change.isPending}
            onClick={() => void act({ do: "undo" })}
          >
            Undo
          </Button>
          <Button
            keys="Ctrl Y"
            className="py-1"
            disabled={!pencil.can_redo || change.isPending}
            onClick={() => void act({ do: "redo" })}
          >
            Redo
          </Button>
          <p className="text-sm text-quiet">
            Choose a note or a rest, and correct it beside the page. The score as it came is kept.
          </p>
        </div>
        <p id="pencil-picked" role="status" className="mb-2 min-h-6 font-bold">
          {isExtending
            ? "Now choose the note it goes to."
            : picked
              ? pickedWords(picked, anchor)
              : "There is no note in this piece."}
        </p>
        <EngravedPage
          pieceId={piece.id}
          title={piece.title}
          version={pencil.version}
          items={pencil.items}
          picked={picked}
          anchor={anchor}
          describedBy="pencil-picked"
          onPick={pick}
          onKey={onKey}
        />
        <p className="mt-2 text-sm text-quiet max-md:hidden">
          <kbd>←</kbd> <kbd>→</kbd> from note to note, <kbd>↑</kbd> <kbd>↓</kbd> within one instant, with{" "}
          <kbd>Shift</kbd> a stretch; <kbd>Enter</kbd> to correct, <kbd>Delete</kbd> to take out.
        </p>
        <Changes
          pencil={pencil}
          isBusy={change.isPending}
          act={act}
          onShow={(onset) => {
            const item = pencil.items.find((one) => one.onset_quarters >= onset);
            if (item) pick(item.id, false);
          }}
        />
      </div>
      <div className="min-w-0">
        {change.error ? (
          <div className="mb-3">
            <Problem error={change.error} />
          </div>
        ) : null}
        {anchor && picked ? (
          <StretchPanel
            from={first(anchor, picked)}
            to={first(anchor, picked) === anchor ? picked : anchor}
            isBusy={change.isPending}
            act={act}
            onDone={leaveStretch}
          />
        ) : null}
        {picked ? (
          <NotePanel
            key={picked.id}
            pieceId={piece.id}
            pencil={pencil}
            item={picked}
            isBusy={change.isPending}
            act={act}
            onExtend={() => setExtending(true)}
          />
        ) : null}
      </div>
    </div>
  );
}

const first = (one: WrittenItem, other: WrittenItem) => (one.onset_quarters <= other.onset_quarters ? one : other);

export const itemWords = (item: WrittenItem) =>
  item.is_rest ? `${item.length_name} rest` : `${item.name}${item.is_grace ? ", grace note" : `, ${item.length_name}`}`;

function pickedWords(item: WrittenItem, anchor: WrittenItem | undefined): string {
  if (anchor)
    return `From ${itemWords(first(anchor, item))} to ${itemWords(first(anchor, item) === anchor ? item : anchor)}`;
  return `${itemWords(item)} · ${item.hand} hand · ${item.place_text}`;
}

/** The item before or after this one at the same instant, or this one. */
function sameInstant(items: readonly WrittenItem[], index: number, by: 1 | -1): number {
  return items[index + by]?.onset_quarters === items[index]?.onset_quarters ? index + by : index;
}

/** Everything that was changed, in the order in which it is applied. */
function Changes({
  pencil,
  isBusy,
  act,
  onShow,
}: {
  pencil: Pencil;
  isBusy: boolean;
  act: (what: PencilAct) => Promise<boolean>;
  onShow: (onset: number) => void;
}) {
  return (
    <section aria-label="Pencilled" className="mt-5 max-w-2xl">
      <h2 className="text-lg font-bold">Pencilled</h2>
      {pencil.changes.length === 0 ? (
        <p className="text-sm text-quiet">Nothing yet: this is the score as it came.</p>
      ) : (
        <>
          <ul className="mt-1 divide-y divide-line text-sm">
            {pencil.changes.map((one) => (
              <li key={one.key} className="py-2">
                <div className="flex items-baseline justify-between gap-3">
                  <button
                    type="button"
                    className="text-left hover:underline"
                    onClick={() => onShow(one.onset_quarters)}
                  >
                    <span className="text-quiet">{one.place_text}:</span> {one.words}
                  </button>
                  <Button
                    look="quiet"
                    disabled={isBusy}
                    aria-label={`Remove: ${one.words}, ${one.place_text}`}
                    onClick={() => void act({ do: "remove", key: one.key })}
                  >
                    remove
                  </Button>
                </div>
                {one.problem ? <p className="text-warn">Not applied: {one.problem}</p> : null}
              </li>
            ))}
          </ul>
          {pencil.changes.length > 1 ? (
            <Button
              look="quiet"
              className="mt-2"
              disabled={isBusy}
              onClick={() => void act({ do: "remove", key: "all" })}
            >
              Rub out all {count(pencil.changes.length, "change")}
            </Button>
          ) : null}
        </>
      )}
    </section>
  );
}

function useUndoKeys(undo: () => void, redo: () => void): void {
  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey) return;
      if ((event.target as HTMLElement | null)?.closest("input, textarea")) return; // a field undoes its own typing
      const key = event.key.toLowerCase();
      if (key === "z" && !event.shiftKey) undo();
      else if (key === "y" || (key === "z" && event.shiftKey)) redo();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
