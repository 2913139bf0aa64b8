/** Settings: how the studio counts, by level, and the words of every system, each with a live example. */
import { useState } from "react";

import type { ChoiceLayer, Compound, Density, StudioChoices, System } from "../../api/client";
import { useCountExample, useCountSystems, usePutStudioChoices, useStudioChoices } from "../../api/queries/studio";
import { compounds, densities, levels, namings, systems as systemOptions } from "../../api/trade";
import { Button, Choice, Loading, Problem } from "../../ui/kit";
import { CountWord } from "../../ui/CountText";
import { SayIt } from "../voice/SayIt";
import { JudgeAll } from "./JudgeAll";
import { Limits } from "./Limits";
import { Voice } from "../voice/Voice";

export function Settings() {
  const stored = useStudioChoices();
  const put = usePutStudioChoices();
  if (stored.error)
    return (
      <main className="p-6">
        <Problem error={stored.error} />
      </main>
    );
  if (!stored.data) return <Loading what="Fetching the settings" />;
  const choices: StudioChoices = stored.data;
  const studio: ChoiceLayer = choices.studio ?? {};
  const change = (part: Partial<ChoiceLayer>) =>
    put.mutateAsync({ ...choices, studio: { ...studio, ...part } }).then(
      () => true,
      () => false,
    ); // said above
  const changeLevel = (level: string, part: Partial<ChoiceLayer>) =>
    put.mutate({
      ...choices,
      levels: {
        ...choices.levels,
        [level]: { ...choices.levels?.[level as keyof StudioChoices["levels"]], ...part },
      } as StudioChoices["levels"] & object,
    });
  return (
    <main className="mx-auto max-w-5xl px-4 pt-6 pb-20 md:px-6">
      <h1 className="text-3xl font-bold">Settings</h1>
      <p className="mb-6 text-quiet">They hold for every piece that has no choice of its own. Saved as you choose.</p>
      {put.error ? <Problem error={put.error} /> : null}

      <section aria-label="How we count" className="mb-8">
        <h2 className="mb-2 text-xl font-bold">How we count</h2>
        <div className="grid gap-2 md:grid-cols-3">
          <Layers layer={studio} onChange={(part) => void change(part)} />
        </div>
        <Example layer={studio} />
      </section>

      <section aria-label="By level" className="mb-8">
        <h2 className="mb-2 text-xl font-bold">By level</h2>
        <div className="grid gap-3">
          {levels().map(([level, words]) => (
            <div
              key={level}
              role="group"
              aria-label={words}
              className="grid items-center gap-2 md:grid-cols-[9rem_repeat(3,minmax(0,1fr))]"
            >
              <span className="font-bold">{words}</span>
              <Layers layer={choices.levels?.[level] ?? {}} onChange={(part) => changeLevel(level, part)} mayBeOpen />
            </div>
          ))}
        </div>
      </section>

      <section aria-label="Names of lengths" className="mb-8">
        <h2 className="mb-2 text-xl font-bold">Names of lengths</h2>
        <div className="max-w-md">
          <Choice
            label="We say"
            value={choices.length_names ?? "american"}
            options={namings()}
            onChange={(length_names) => put.mutate({ ...choices, length_names })}
          />
        </div>
      </section>

      <Limits stored={choices} isBusy={put.isPending} onChange={(limits) => put.mutateAsync({ ...choices, limits })} />

      <JudgeAll />

      <Words studio={studio} onChange={change} />

      <Voice
        system={studio.system ?? "numbers"}
        onLanguage={(voice_language) => put.mutate({ ...choices, voice_language })}
      />
    </main>
  );
}

/** The choices of one layer; a level may leave them to the studio. */
function Layers({
  layer,
  onChange,
  mayBeOpen = false,
}: {
  layer: ChoiceLayer;
  onChange: (part: Partial<ChoiceLayer>) => void;
  mayBeOpen?: boolean;
}) {
  const open = mayBeOpen ? ([["", "as the studio"]] as const) : [];
  return (
    <>
      <Choice
        label="Words"
        value={layer.system ?? (mayBeOpen ? "" : "numbers")}
        options={[...open, ...systemOptions()]}
        onChange={(value) => onChange({ system: value === "" ? null : (value as System) })}
      />
      <Choice
        label="How much"
        value={layer.density ?? (mayBeOpen ? "" : "beat")}
        options={[...open, ...densities()]}
        onChange={(value) => onChange({ density: value === "" ? null : (value as Density) })}
      />
      <Choice
        label="Counted"
        value={layer.compound ?? (mayBeOpen ? "" : "auto")}
        options={[...open, ...compounds()]}
        onChange={(value) => onChange({ compound: value === "" ? null : (value as Compound) })}
      />
    </>
  );
}

/** A short rhythm counted so. */
function Example({ layer }: { layer: ChoiceLayer }) {
  const example = useCountExample(layer);
  if (example.error) return <Problem error={example.error} />;
  return (
    <dl
      aria-label="Example"
      className="mt-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1 rounded-lg border border-line bg-card p-3"
      aria-live="polite"
    >
      {example.data?.map((bar, index) => (
        <div key={index} className="contents">
          <dt className="text-quiet">{bar.signature}</dt>
          <dd>
            {bar.counts.map((count, at) => (
              <span key={at} className="mr-1">
                <CountWord say={count.say} kind={count.kind} />{" "}
              </span>
            ))}
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** The words of each system, editable one by one. */
function Words({
  studio,
  onChange,
}: {
  studio: ChoiceLayer;
  onChange: (part: Partial<ChoiceLayer>) => Promise<boolean>;
}) {
  const systems = useCountSystems();
  const [key, setKey] = useState<System>(studio.system ?? "numbers");
  if (systems.error) return <Problem error={systems.error} />;
  const system = systems.data?.find((one) => one.key === key);
  const words = studio.words ?? {};
  const set = (entry: string, given: string[] | null) => {
    const others = Object.entries(words).filter(([name]) => name !== `${key}:${entry}`);
    return onChange({ words: Object.fromEntries(given ? [...others, [`${key}:${entry}`, given]] : others) });
  };
  return (
    <section aria-label="Words" className="mb-8">
      <h2 className="mb-2 text-xl font-bold">Words</h2>
      <div className="max-w-md">
        <Choice label="Of" value={key} options={systemOptions()} onChange={setKey} />
      </div>
      <Example layer={{ ...studio, system: key }} />
      <table className="mt-3 w-full text-left">
        <thead className="text-sm text-quiet">
          <tr>
            <th className="py-1 font-normal">For</th>
            <th className="py-1 font-normal">Said</th>
            <th className="py-1 font-normal">Also in use</th>
          </tr>
        </thead>
        <tbody>
          {system?.entries.map((entry) => {
            const own = words[`${key}:${entry.name}`];
            return (
              <tr key={`${key}:${entry.name}`} className="border-t border-line align-baseline">
                <td className="py-1.5 pr-3">{entry.meaning}</td>
                <td className="py-1.5 pr-3">
                  <WordField
                    label={entry.meaning}
                    system={key}
                    isOwn={Boolean(own)}
                    words={own ?? entry.words}
                    onSave={(given) => set(entry.name, given.join(" ") === entry.words.join(" ") ? null : given)}
                  />
                  {own ? (
                    <Button look="quiet" className="text-sm" onClick={() => void set(entry.name, null)}>
                      back to {shown(entry.words)}
                    </Button>
                  ) : null}
                </td>
                <td className="py-1.5">
                  {entry.variants.map((variant) => (
                    <Button
                      key={variant.join(" ")}
                      look="quiet"
                      className="mr-3"
                      onClick={() => void set(entry.name, variant)}
                    >
                      {shown(variant)}
                    </Button>
                  ))}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-2 text-sm text-quiet">“1” stands for the number of the beat, “2” for that of the next one.</p>
    </section>
  );
}

/** The beat's number is shown as 1, and written so. */
const shown = (words: readonly string[]) =>
  words.map((word) => (word === "{n}" ? "1" : word === "{m}" ? "2" : word)).join(" ");
const read = (text: string) =>
  text
    .trim()
    .split(/\s+/)
    .map((word) => (word === "1" ? "{n}" : word === "2" ? "{m}" : word));

function WordField({
  label,
  system,
  isOwn,
  words,
  onSave,
}: {
  label: string;
  system: System;
  isOwn: boolean;
  words: readonly string[];
  onSave: (words: string[]) => Promise<boolean>;
}) {
  const [text, setText] = useState<string | null>(null);
  const value = text ?? shown(words);
  const given = read(value);
  const fits = given.length === words.length && given.every((word) => word.length <= 16);
  const save = () => {
    if (text === null || !fits) return;
    if (value.trim() === shown(words)) setText(null);
    else
      void onSave(given).then((done) => {
        if (done) setText(null);
      }); // what could not be stored stays typed
  };
  return (
    <form
      className="inline-block"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <input
        aria-label={`Words for ${label}`}
        value={value}
        onChange={(event) => setText(event.target.value)}
        onBlur={save}
        aria-invalid={!fits}
        className={`w-48 rounded-md border bg-card px-2 py-1 ${fits ? "border-line" : "border-warn"}`}
      />
      {fits && (isOwn || text !== null)
        ? given
            .filter((word) => !word.startsWith("{"))
            .map((word, index) => <SayIt key={index} say={word} system={system} words={`hear ${word}`} />)
        : null}
      {fits ? null : (
        <span role="status" className="ml-2 text-sm text-warn">
          {words.length === 1 ? "one word" : `${words.length} words`}, please
        </span>
      )}
    </form>
  );
}
