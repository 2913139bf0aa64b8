/** One bar counted another way than its piece: its own words, density, beat or grouping. */
import type { ChoiceLayer, Choices, Counts, Piece } from "../../api/client";
import { useNaming } from "../../api/queries/studio";
import { beatsIn, compounds, densities, restSchools, systems, wordsFor, type Naming } from "../../api/trade";
import { Choice } from "../../ui/Choice";

const AS_PIECE = ["", "as the piece"] as const;

/** The choices a bar of this time signature has; an empty value means that the piece decides. */
export function BarChoices({
  piece,
  counts,
  measure,
  layer,
  isPending,
  onChange,
}: {
  piece: Piece;
  counts: Counts;
  measure: string;
  layer: ChoiceLayer;
  isPending: boolean;
  onChange: (layer: ChoiceLayer) => void;
}) {
  const signature = piece.ruler.measures.find((one) => one.number === measure)?.signature;
  const open = counts.signatures.find((one) => one.signature === signature);
  const naming = useNaming();
  const beats = beatsIn(naming).filter(([key]) => open?.beats.includes(key));
  const groupings = (open?.groupings ?? []).map((text) => [text, text.replaceAll("+", " + ")] as const);
  const choose =
    <K extends keyof ChoiceLayer>(field: K) =>
    (value: string) => {
      if (!isPending) onChange({ ...layer, [field]: value === "" ? null : value });
    };
  return (
    <fieldset className="mt-3">
      <legend className="font-bold">All of bar {measure}</legend>
      <div className="mt-1 grid gap-2 [&_.text-quiet]:w-32">
        <Choice
          label="Way of counting"
          value={layer.system ?? ""}
          options={[AS_PIECE, ...systems()]}
          onChange={choose("system")}
        />
        <Choice
          label="How much to say"
          value={layer.density ?? ""}
          options={[AS_PIECE, ...densities()]}
          onChange={choose("density")}
        />
        <Choice
          label="In a rest say"
          value={layer.rests ?? ""}
          options={[AS_PIECE, ...restSchools()]}
          onChange={choose("rests")}
        />
        {open?.has_units ? (
          <Choice
            label="Counted"
            value={layer.compound ?? ""}
            options={[AS_PIECE, ...compounds()]}
            onChange={choose("compound")}
          />
        ) : null}
        {beats.length > 1 ? (
          <Choice label="The beat" value={layer.beat ?? ""} options={[AS_PIECE, ...beats]} onChange={choose("beat")} />
        ) : null}
        {groupings.length ? (
          <Choice
            label="Grouped"
            value={layer.grouping ?? ""}
            options={[AS_PIECE, ...groupings]}
            onChange={choose("grouping")}
          />
        ) : null}
      </div>
    </fieldset>
  );
}

export function withBar(choices: Choices, measure: string, layer: ChoiceLayer): NonNullable<Choices["bars"]> {
  const kept = Object.fromEntries(Object.entries(layer).filter(([, value]) => value !== null && value !== undefined));
  const others = Object.entries(choices.bars ?? {}).filter(([name]) => name !== measure);
  return Object.fromEntries(Object.keys(kept).length ? [...others, [measure, kept]] : others);
}

export function layerWords(layer: ChoiceLayer, naming: Naming): string {
  const parts = [
    layer.system ? wordsFor(systems(), layer.system) : "",
    layer.density ? wordsFor(densities(), layer.density) : "",
    layer.compound ? wordsFor(compounds(), layer.compound) : "",
    layer.beat ? `the beat in ${wordsFor(beatsIn(naming), layer.beat)}` : "",
    layer.grouping ? `grouped ${layer.grouping.replaceAll("+", " + ")}` : "",
    layer.words ? "words of its own" : "",
  ];
  return parts.filter(Boolean).join("; ");
}
