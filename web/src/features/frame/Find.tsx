/** Students, pieces and takes by a few letters: typed, chosen with the arrows, gone to. */
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";

import { type Schemas, api, unwrap } from "../../api/client";
import { statusWords } from "../../api/trade";
import { timeOf } from "../../lib/words";
import { Sheet } from "../../ui/Sheet";
import { Problem } from "../../ui/kit";

type Found = Schemas["FoundPublic"];
type Line = { to: string; kind: string; words: string; more: string };

const useFound = (find: string) =>
  useQuery({
    queryKey: ["search", find],
    queryFn: () => unwrap(api.GET("/api/search", { params: { query: { find } } })),
    enabled: find !== "",
    placeholderData: keepPreviousData,
    staleTime: 0,
  });

function linesOf(found: Found): Line[] {
  return [
    ...found.students.map((one) => ({
      to: `/students/${one.id}`,
      kind: "Students",
      words: one.name,
      more: one.is_paused ? "pauses" : "",
    })),
    ...found.pieces.map((one) => ({ to: `/pieces/${one.id}`, kind: "Pieces", words: one.title, more: one.composer })),
    ...found.takes.map((one) => ({
      to: `/pieces/${one.piece_id}/takes/${one.id}`,
      kind: "Takes",
      words: `${one.student}, ${one.title}`,
      more: [timeOf(one.created_at), one.said ? statusWords(one.said) : "", one.note].filter(Boolean).join(" · "),
    })),
  ];
}

export function Find({ onClose }: { onClose: () => void }) {
  const [text, setText] = useState("");
  const find = useDeferredValue(text.trim());
  const found = useFound(find);
  const navigate = useNavigate();
  const lines = find && found.data ? linesOf(found.data) : [];
  return (
    <Sheet open onClose={onClose} title="Find">
      <Combobox<Line | null>
        immediate
        value={null}
        by="to"
        onChange={(line) => {
          if (!line) return;
          onClose();
          void navigate(line.to);
        }}
      >
        <ComboboxInput
          autoFocus
          aria-label="A student, a piece, or words of a take’s note"
          placeholder="a student, a piece, words of a note"
          maxLength={100}
          autoComplete="off"
          className="min-h-11 w-full rounded-lg border border-edge bg-paper px-3"
          onChange={(event) => setText(event.target.value)}
        />
        <ComboboxOptions static as="ul" className="mt-3 max-h-[60dvh] overflow-y-auto empty:hidden">
          {lines.map((line, at) => (
            <ComboboxOption
              key={line.to}
              as="li"
              value={line}
              className="flex cursor-pointer flex-wrap gap-x-3 rounded-lg px-3 py-2 data-focus:bg-here"
            >
              {lines[at - 1]?.kind === line.kind ? null : (
                <span className="basis-full text-sm text-quiet">{line.kind}</span>
              )}
              <b>{line.words}</b>
              <span className="min-w-0 text-quiet">{line.more}</span>
            </ComboboxOption>
          ))}
        </ComboboxOptions>
      </Combobox>
      <p role="status" className="mt-2 text-quiet">
        {find && found.data && !found.isPlaceholderData && lines.length === 0 ? "Nothing is called so." : ""}
      </p>
      {found.error ? <Problem error={found.error} /> : null}
    </Sheet>
  );
}
