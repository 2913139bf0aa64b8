/** Which bars of a piece a drill is made of, and from which strike of them to which: chosen, not written. */
import { usePiece, useStrikes } from "../../api/queries/pieces";
import { Choice } from "../../ui/Choice";

type Props = { pieceId: number; words: string; value: string; onChange: (value: string) => void };

/** The names of a piece's written bars. */
function useBarNames(pieceId: number): string[] {
  const piece = usePiece(pieceId);
  return [...new Set((piece.data?.ruler.measures ?? []).map((measure) => measure.number))];
}

/** ``3-4`` and ``3`` as the first and the last; a bar may have a name with a dash in it. */
function endsOf(measures: string, names: readonly string[]): [string, string] {
  if (names.includes(measures)) return [measures, measures];
  for (let at = measures.indexOf("-"); at > 0; at = measures.indexOf("-", at + 1)) {
    const [first, last] = [measures.slice(0, at), measures.slice(at + 1)];
    if (names.includes(first) && names.includes(last)) return [first, last];
  }
  return [measures, measures];
}

export function Bars({ pieceId, words, value, onChange }: Props) {
  const names = useBarNames(pieceId);
  const [first, last] = endsOf(value, names);
  const put = (from: string, to: string) => {
    const isInOrder = names.indexOf(to) >= names.indexOf(from);
    onChange(from === "" ? "" : !isInOrder || to === from || to === "" ? from : `${from}-${to}`);
  };
  const bars = names.map((name) => [name, `bar ${name}`] as const);
  return (
    <div className="flex flex-wrap items-center gap-2 [&>:first-child>span:first-child]:min-w-36">
      <Choice
        label={words}
        value={first}
        options={[["", "from the beginning"], ...bars]}
        onChange={(from) => put(from, last)}
      />
      {first ? (
        <Choice label="to" value={last} options={bars.slice(names.indexOf(first))} onChange={(to) => put(first, to)} />
      ) : null}
    </div>
  );
}

/** From a strike of the first bar to one of the last; there is nothing to choose before the bars are chosen. */
export function Strikes({ pieceId, words, value, measures, onChange }: Props & { measures: string }) {
  const names = useBarNames(pieceId);
  const [first, last] = endsOf(measures, names);
  const begins = useStrikes(pieceId, first, first !== "").data ?? [];
  const ends = useStrikes(pieceId, last, last !== "").data ?? [];
  const [from = "", to = ""] = value.split("..");
  const put = (begin: string, end: string) => {
    const whole = begin === "" && end === "";
    onChange(whole ? "" : `${begin || (begins[0]?.offset ?? "0")}..${end || (ends.at(-1)?.offset ?? "0")}`);
  };
  if (!measures) return null;
  const options = (strikes: typeof begins, usual: string) => [
    ["", usual] as const,
    ...strikes.map(({ offset, words: where }) => [offset, where] as const),
  ];
  return (
    <div className="flex flex-wrap items-center gap-2 [&>:first-child>span:first-child]:min-w-36">
      <Choice
        label={`${words} bar ${first}`}
        value={from}
        options={options(begins, "its beginning")}
        onChange={(begin) => put(begin, begin === "" ? "" : to)}
      />
      <Choice
        label={`to bar ${last}`}
        value={to}
        options={options(ends, "its end")}
        onChange={(end) => put(end === "" ? "" : from, end)}
      />
    </div>
  );
}
