/** The tables of the trade as the server has them: what can be chosen or said, each key with its words. They are the
 * same for every studio, and fetched once, before anything is drawn. */
import { type Schemas, api, unwrap } from "./client";

export type Trade = Schemas["TradePublic"];
export type Naming = Schemas["LengthNaming"];

let known: Trade | null = null;

export async function loadTrade(): Promise<void> {
  setTrade(await unwrap(api.GET("/api/trade")));
}

/** For tests, which have no server. */
export function setTrade(trade: Trade): void {
  known = trade;
}

export function trade(): Trade {
  if (!known) throw new Error("the tables of the trade are not loaded");
  return known;
}

type Worded<K extends string> = { key: K; words: string };

/** A table as the options of a choice. */
const options = <K extends string>(table: readonly Worded<K>[]): (readonly [K, string])[] =>
  table.map(({ key, words }) => [key, words] as const);

export const activities = () => trade().activities;
export const levels = () => options(trade().levels);
/** How a key of a choice is called. */
export const wordsFor = (pairs: readonly (readonly [string, string])[], key: string) =>
  pairs.find(([one]) => one === key)?.[1] ?? key;

export const densities = () => options(trade().densities);
export const compounds = () => options(trade().compounds);
export const systems = () => options(trade().systems);
export const restSchools = () => options(trade().rests);
export const namings = () => options(trade().namings);

const wordsOf = <K extends string>(table: readonly Worded<K>[], key: K): string =>
  table.find((one) => one.key === key)?.words ?? key;

export const statusWords = (status: Schemas["Status"]) => wordsOf(trade().statuses, status);
export const stateWords = (state: Schemas["TakeState"]) => wordsOf(trade().states, state);

const activityOf = (key: string) => trade().activities.find((one) => one.key === key);
export const activityTitle = (key: string) => activityOf(key)?.title ?? key;
/** In the middle of a sentence. */
export const activityName = (key: string) => activityOf(key)?.name ?? key;

/** What is written beside the place of a finding. */
export const findingMark = (code: string) => trade().findings.find((one) => one.code === code)?.mark ?? "here";

const namingOf = (naming: Naming) => {
  const found = trade().namings.find((one) => one.key === naming);
  if (!found) throw new Error(`no words for ${naming}`);
  return found;
};

/** The beats in which a bar can be counted, in the studio's words. */
export const beatsIn = (naming: Naming) =>
  Object.entries(namingOf(naming).beats) as [NonNullable<Schemas["ChoiceLayer"]["beat"]>, string][];

/** Plain lengths by how many make a whole note, in the studio's words. */
export const lengthsIn = (naming: Naming) => namingOf(naming).lengths as Record<"1" | "2" | "4" | "8" | "16", string>;

export const gridWords = (grid: string, naming: Naming) => namingOf(naming).grids[grid] ?? grid;

/** Is a cure something to be set up and begun at once? What was played elsewhere is not. */
export function canBeDone({ code }: { code: string }): boolean {
  return code !== "other-passage" && code !== "other-piece";
}
