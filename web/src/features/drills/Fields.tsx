/** The choices that a drill is made by: one of a few, words of one's own, a piece of the shelf, or a row of several. */
import { Choice } from "../../ui/Choice";
import { Button } from "../../ui/kit";
import type { Schemas } from "../../api/client";
import { Bars, Strikes } from "./PassageFields";

export type Option = Schemas["DrillOption"];

/** What was chosen, by the key of the option. */
export type Chosen = Readonly<Record<string, string>>;

const PLACEHOLDERS: Chosen = { tempo: "60", roots: "C F G C" };

type Props = {
  options: readonly Option[];
  values: Chosen;
  /** The pieces on the shelf, by number and title. */
  pieces: readonly (readonly [string, string])[];
  /** What stands for words that nobody wrote, as it was made. */
  made: Chosen;
  onChange: (key: string, value: string) => void;
};

/** Some options count only where another one has a value. */
export const isAsked = ({ only_with }: Option, values: Chosen): boolean =>
  !only_with || (values[only_with.key] ?? "").split(",").includes(only_with.value);

export function Fields({ options, values, pieces, made, onChange }: Props) {
  const asked = options.filter((one) => isAsked(one, values));
  const grid = (some: readonly Option[]) => (
    <div className="grid gap-x-8 gap-y-2 lg:grid-cols-2 [&>*>span:first-child]:min-w-36">
      {some.map((one) =>
        one.picks && values["of"] ? (
          <Place key={one.key} option={one} values={values} onChange={(value) => onChange(one.key, value)} />
        ) : (
          <Field
            key={one.key}
            option={one}
            value={values[one.key] ?? ""}
            choices={
              one.of_piece
                ? [...(one.is_needed ? [] : [["", one.only_with ? "which piece?" : "of its own"] as const]), ...pieces]
                : one.choices.map(({ value, words }) => [value, words] as const)
            }
            placeholder={made[one.key] ?? PLACEHOLDERS[one.key]}
            onChange={(value) => onChange(one.key, value)}
          />
        ),
      )}
    </div>
  );
  const extra = asked.filter((one) => one.is_extra);
  return (
    <div className="mb-4">
      {grid(asked.filter((one) => !one.is_extra))}
      {extra.length ? (
        <details className="mt-2" open={extra.some((one) => (values[one.key] ?? "") !== one.usual)}>
          <summary className="min-h-8 cursor-pointer content-center pointer-coarse:min-h-11">More choices</summary>
          <div className="mt-1">{grid(extra)}</div>
        </details>
      ) : null}
    </div>
  );
}

function Place({ option, values, onChange }: { option: Option; values: Chosen; onChange: (value: string) => void }) {
  const shown = {
    pieceId: Number(values["of"]),
    words: option.words,
    value: values[option.key] ?? "",
    onChange,
  };
  return option.picks === "bars" ? <Bars {...shown} /> : <Strikes {...shown} measures={values["measures"] ?? ""} />;
}

type FieldProps = {
  option: Option;
  value: string;
  choices: readonly (readonly [string, string])[];
  placeholder: string | undefined;
  onChange: (value: string) => void;
};

function Field({ option, value, choices, placeholder, onChange }: FieldProps) {
  if (option.is_list) return <Row option={option} value={value} choices={choices} onChange={onChange} />;
  if (choices.length) return <Choice label={option.words} value={value} options={choices} onChange={onChange} />;
  return (
    <label className="flex min-w-0 items-center gap-2">
      <span className="text-quiet">{option.words}</span>
      <input
        value={value}
        maxLength={200}
        placeholder={placeholder}
        inputMode={option.key === "tempo" ? "numeric" : "text"}
        onChange={(event) => onChange(event.target.value)}
        className="min-h-10 min-w-0 flex-1 rounded-lg border border-edge bg-card px-3 pointer-coarse:min-h-11"
      />
    </label>
  );
}

/** So many in a row. */
const MOST = 6;

/** Several values, one after the other. */
function Row({ option, value, choices, onChange }: Omit<FieldProps, "placeholder">) {
  const chosen = value.split(",");
  const put = (index: number, next: string) => onChange(chosen.map((old, at) => (at === index ? next : old)).join(","));
  const unused = choices.find(([key]) => !chosen.includes(key))?.[0] ?? chosen[0] ?? "";
  return (
    <div
      role="group"
      aria-label={option.words}
      className="col-span-full grid gap-y-2 lg:max-w-[calc(50%-16px)] [&>*>*>span:first-child]:min-w-36"
    >
      {chosen.map((one, index) => (
        // Two may be the same: the place is what tells them apart.
        <div key={`${index} of ${chosen.length}`} className="flex items-center gap-2 [&>:first-child]:flex-1">
          <Choice
            label={index ? "then" : option.words}
            value={one}
            options={choices.some(([key]) => key === one) ? choices : [...choices, [one, one] as const]}
            onChange={(next) => put(index, next)}
          />
          {chosen.length > 1 ? (
            <Button
              look="quiet"
              aria-label={`Leave number ${index + 1} out`}
              onClick={() => onChange(chosen.filter((_, at) => at !== index).join(","))}
            >
              ✕
            </Button>
          ) : null}
        </div>
      ))}
      {chosen.length < MOST ? (
        <div>
          <Button look="quiet" onClick={() => onChange([...chosen, unused].join(","))}>
            One more after it
          </Button>
        </div>
      ) : null}
    </div>
  );
}
