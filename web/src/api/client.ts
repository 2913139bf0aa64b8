/** The typed client. Types come from the API's own description (npm run api). */
import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export const api = createClient<paths>({
  baseUrl: location.origin,
  fetch: (request: Request) => globalThis.fetch(request), // asked for at every call: tests put another in its place
});

/** What a request that brings a file carries: the description types a file as text, the form sends the file itself. */
export const fileBody = <Name extends string>(name: Name, file: Blob, filename?: string) => ({
  body: { [name]: "" } as Record<Name, string>,
  bodySerializer: () => {
    const form = new FormData();
    if (filename === undefined) form.append(name, file);
    else form.append(name, file, filename);
    return form;
  },
});

export type Schemas = components["schemas"];
export type Piece = Schemas["PiecePublic"];
export type PieceAdded = Schemas["PieceAdded"];
export type PieceShort = Schemas["PieceShort"];
export type Counts = Schemas["CountsPublic"];
export type Count = Schemas["CountPublic"];
export type Schedule = Schemas["SchedulePublic"];
export type Take = Schemas["TakePublic"];
export type TakeAdded = Schemas["TakeAdded"];
export type TakeShort = Schemas["TakeShort"];
export type TakeCreate = Schemas["TakeCreate"];
export type Verdict = Schemas["VerdictTold"];
/** Every figure of a checked take, as the command line's ``check`` tells it (docs/checking.md). */
export type CheckDocument = Schemas["CheckDocument"];
export type Place = Schemas["PlaceTold"];
export type Ruler = Schemas["RulerPublic"];
export type Measure = Schemas["MeasurePublic"];
export type Study = Schemas["StudyPublic"];
export type Rung = Schemas["RungPublic"];
export type NextStep = Schemas["NextPublic"];
export type HandChoice = "right" | "left" | "both";
export type Activity = Schemas["Activity"];
export type Density = Schemas["Density"];
export type Compound = Schemas["Compound"];
export type System = Schemas["System"];
export type Choices = Schemas["PieceChoices"];
/** Choices at one level: the studio, a piece or a bar. */
export type ChoiceLayer = Schemas["ChoiceLayer"];
export type StudioChoices = Schemas["StudioChoices"];
export type TogetherMap = Schemas["MapPublic"];
export type MapKey = Schemas["KeyPublic"];
export type HardPlace = Schemas["HardPlacePublic"];
export type Roadmap = Schemas["RoadmapPublic"];
export type Pencil = Schemas["PencilPublic"];
export type WrittenItem = Schemas["WrittenItem"];
export type Entry = Schemas["EntryPublic"];
export type Question = Schemas["QuestionPublic"];
export type QuestionKind = Schemas["QuestionKind"];
export type ChangeCreate = Schemas["ChangeCreate"];

/** An answer that says no, in the one shape that all of them have. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    what: string,
    readonly where: string | null,
    readonly kept: string | null,
    readonly todo: string | null,
  ) {
    super(what);
  }
}

let toldSignedOut: () => void = () => undefined;

/** Who wants to know when the server says that nobody is signed in (any more). */
export function onSignedOut(tell: () => void): void {
  toldSignedOut = tell;
}

export type Answer<T> = { data?: T | undefined; error?: unknown; response: Response };

/** The data of an answer, or an ApiError. A server that cannot be reached is one too. */
export async function unwrap<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiError(
      0,
      "offline",
      "Lap Tick’s server does not answer.",
      null,
      null,
      "Start it again; this page will go on.",
    );
  }
  if (answer.response.ok) return answer.data as T;
  if (answer.response.status === 401) toldSignedOut();
  const body = (answer.error as { error?: Record<string, string | null> } | undefined)?.error;
  throw new ApiError(
    answer.response.status,
    body?.code ?? "http",
    body?.what ?? `the server answered ${answer.response.status}.`,
    body?.where ?? null,
    body?.kept ?? null,
    body?.todo ?? null,
  );
}
