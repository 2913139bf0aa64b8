/** What the interface is shown in tests: the API's answers about a demo piece and a checked take of it, made by
 * tools/make_web_fixtures.py; a test of the API holds them to what it gives today. */
import type { Counts, Piece, Roadmap, StudioChoices, Study, TakeAdded } from "../api/client";
import type { Trade } from "../api/trade";
import answersJson from "./answers.json";
import takeJson from "./take.json";
import tradeJson from "./trade.json";

/** JSON is read with wide types; that these are the API's is tested where the API is. */
const given = <T>(json: unknown) => json as T;

/** ``"GET /api/…"`` → answer. The piece and the take have the number 1. */
export const answers = given<Record<string, unknown>>(answersJson);

export const piece = given<Piece>(answersJson["GET /api/pieces/1"]);
export const counts = given<Counts>(answersJson["GET /api/pieces/1/counts"]);
export const study = given<Study>(answersJson["GET /api/pieces/1/study"]);
export const roadmap = given<Roadmap>(answersJson["GET /api/pieces/1/roadmap"]);
export const studioChoices = given<StudioChoices>(answersJson["GET /api/choices"]);
export const take = given<TakeAdded>(takeJson);
export const tables = given<Trade>(tradeJson);
