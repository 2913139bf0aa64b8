/** Settings: how the studio counts, by level, and the words of every system, each with a live example. */
import { type ReactNode, useState } from "react";
import { Link, useParams } from "react-router";

import type { ChoiceLayer, Compound, Density, StudioChoices, System } from "../../api/client";
import { useCountExample, useCountSystems, usePutStudioChoices, useStudioChoices } from "../../api/queries/studio";
import { compounds, densities, levels, namings, restSchools, systems as systemOptions } from "../../api/trade";
import { ProblemPlace, WayOut } from "../../ui/ProblemPlace";
import { Titled } from "../../ui/Titled";
import { Choice } from "../../ui/Choice";
import { Button, LoadingPlace, Problem } from "../../ui/kit";
import { CountWord } from "../../ui/CountText";
import { SayIt } from "../voice/SayIt";
import { Account } from "./Account";
import { Audit } from "./Audit";
import { JudgeAll } from "./JudgeAll";
import { Limits } from "./Limits";
import { Recordings } from "./Recordings";
import { Removed } from "./Removed";
import { StudioPlace } from "./StudioPlace";
import { Teaching } from "./Teaching";
import { Voice } from "../voice/Voice";

export function Settings() {
  const asked = useParams().page;
  const page: Page = PAGES.find(([key]) => key === asked)?.[0] ?? "counting";
  const stored = useStudioChoices();
  const put = usePutStudioChoices();
  if (stored.error)
    return (
      <ProblemPlace title="The settings cannot be shown" error={stored.error}>
        <WayOut to="/pieces">To the pieces</WayOut>
      </ProblemPlace>
    );
  if (!stored.data) return <LoadingPlace title="Settings" what="Fetching the settings" />;
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
  const places: Record<Page, () => ReactNode> = {
    counting: () => (
      <>
        <section aria-label="How we count" className="mb-8">
          <h2 className="mb-2 text-lg font-bold">How we count</h2>
          <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="How we count, by level">
            <table className="w-full min-w-[860px] text-left">
              <thead>
                <tr className="text-sm text-quiet">
                  <td />
                  {COLUMNS.map((words) => (
                    <th key={words} scope="col" className="px-1 py-1 font-normal">
                      {words}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                <tr>
                  <th scope="row" className="py-1 pr-3 font-semibold whitespace-nowrap">
                    The studio
                  </th>
                  <Layers name="the studio" layer={studio} onChange={(part) => void change(part)} />
                </tr>
                {levels().map(([level, words]) => (
                  <tr key={level} className="border-t border-line">
                    <th scope="row" className="py-1 pr-3 font-normal whitespace-nowrap first-letter:uppercase">
                      {words}
                    </th>
                    <Layers
                      name={words}
                      layer={choices.levels?.[level] ?? {}}
                      onChange={(part) => changeLevel(level, part)}
                      mayBeOpen
                    />
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <Example layer={studio} />
        </section>
        <section aria-label="Names of lengths" className="mb-8">
          <h2 className="mb-2 text-lg font-bold">Names of lengths</h2>
          <div className="max-w-md">
            <Choice
              label="We say"
              value={choices.length_names ?? "american"}
              options={namings()}
              onChange={(length_names) => put.mutate({ ...choices, length_names })}
            />
          </div>
        </section>
      </>
    ),
    teaching: () => <Teaching />,
    studio: () => <StudioPlace />,
    removed: () => <Removed />,
    syllables: () => <Words studio={studio} onChange={change} />,
    limits: () => (
      <>
        <Limits
          stored={choices}
          isBusy={put.isPending}
          onChange={(limits) => put.mutateAsync({ ...choices, limits })}
        />
        <JudgeAll />
      </>
    ),
    recordings: () => <Recordings />,
    account: () => <Account />,
    log: () => <Audit />,
    voice: () => (
      <Voice
        system={studio.system ?? "numbers"}
        onLanguage={(voice_language) => put.mutate({ ...choices, voice_language })}
      />
    ),
  };
  return (
    <main id="main" className="mx-auto max-w-[1320px] px-3 pt-3 pb-13 md:px-8">
      <Titled title={`${PAGES.find(([key]) => key === page)?.[1]} · Settings`} />
      <h1 tabIndex={-1} className="text-2xl font-bold focus:outline-none">
        Settings
      </h1>
      <p className="mb-3 text-quiet">
        {FOR_PIECES.has(page)
          ? "They hold for every piece that has no choice of its own. Saved as you choose."
          : "They hold for the whole studio."}
      </p>
      <nav aria-label="Settings" className="mb-5 flex flex-wrap border-b border-line">
        {PAGES.map(([key, words]) => (
          <Link
            key={key}
            to={`/settings/${key}`}
            aria-current={key === page ? "page" : undefined}
            className={[
              "flex min-h-10 items-center border-b-3 px-3 pointer-coarse:min-h-11",
              key === page ? "border-ink font-bold" : "border-transparent text-quiet hover:text-ink",
            ].join(" ")}
          >
            {words}
          </Link>
        ))}
      </nav>
      {put.error ? <Problem error={put.error} /> : null}
      {places[page]()}
    </main>
  );
}

const PAGES = [
  ["counting", "Counting"],
  ["teaching", "Teaching"],
  ["syllables", "Syllables"],
  ["limits", "Levels and limits"],
  ["studio", "The studio"],
  ["recordings", "Recordings"],
  ["voice", "Voice"],
  ["account", "Your account"],
  ["removed", "Removed"],
  ["log", "Log"],
] as const;
/** What a piece may have otherwise. */
const FOR_PIECES = new Set<string>(["counting", "teaching", "syllables", "limits"]);
type Page = (typeof PAGES)[number][0];

const COLUMNS = ["Way of counting", "How much to say", "In a rest say", "6/8 and its like"] as const;

/** The choices of one layer, each in its column; a level may leave them to the studio. */
function Layers({
  name,
  layer,
  onChange,
  mayBeOpen = false,
}: {
  name: string;
  layer: ChoiceLayer;
  onChange: (part: Partial<ChoiceLayer>) => void;
  mayBeOpen?: boolean;
}) {
  const open = mayBeOpen ? ([["", "as the studio"]] as const) : [];
  const cell = (
    column: number,
    value: string,
    options: readonly (readonly [string, string])[],
    set: (v: string) => void,
  ) => (
    <td className="px-1 py-1">
      <Choice
        hideLabel
        label={`${COLUMNS[column]}, ${name}`}
        value={value}
        options={[...open, ...options]}
        onChange={set}
      />
    </td>
  );
  const or = <T extends string>(value: string) => (value === "" ? null : (value as T));
  return (
    <>
      {cell(0, layer.system ?? (mayBeOpen ? "" : "numbers"), systemOptions(), (value) =>
        onChange({ system: or<System>(value) }),
      )}
      {cell(1, layer.density ?? (mayBeOpen ? "" : "beat"), densities(), (value) =>
        onChange({ density: or<Density>(value) }),
      )}
      {cell(2, layer.rests ?? (mayBeOpen ? "" : "number"), restSchools(), (value) =>
        onChange({ rests: or<NonNullable<ChoiceLayer["rests"]>>(value) }),
      )}
      {cell(3, layer.compound ?? (mayBeOpen ? "" : "auto"), compounds(), (value) =>
        onChange({ compound: or<Compound>(value) }),
      )}
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
      className="mt-3 grid grid-cols-[auto_1fr] gap-x-5 gap-y-1 rounded-lg border border-edge bg-card p-3"
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
    <section aria-label="Syllables" className="mb-8">
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
                <td className="py-2 pr-3">{entry.meaning}</td>
                <td className="py-2 pr-3">
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
                <td className="py-2">
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
        className={`w-48 rounded-lg border bg-card px-2 py-1 ${fits ? "border-edge" : "border-warn"}`}
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
