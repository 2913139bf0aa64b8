/** The five places of a piece, in the order of the work, and the views in each. */
export type View = "roadmap" | "pencil" | "write" | "count" | "ask" | "together" | "practise" | "play" | "takes";

export type Place = { key: string; words: string; views: readonly (readonly [View, string])[] };

export const PLACES: readonly Place[] = [
  {
    key: "page",
    words: "The page",
    views: [
      ["roadmap", "Roadmap"],
      ["pencil", "Pencil"],
      ["write", "Write"],
    ],
  },
  {
    key: "count",
    words: "Count",
    views: [
      ["count", "The count"],
      ["ask", "Ask"],
    ],
  },
  { key: "together", words: "Together", views: [["together", "Together"]] },
  {
    key: "practise",
    words: "Practise",
    views: [
      ["practise", "The ladder"],
      ["play", "Play along"],
    ],
  },
  { key: "takes", words: "Takes", views: [["takes", "Takes"]] },
];

/** Those of whoever came by a personal link: what is done there is practised, not taught. */
export const OWN_PLACES: readonly Place[] = PLACES.filter(({ key }) => ["together", "practise", "takes"].includes(key));

export const placeOf = (view: View): Place =>
  PLACES.find((place) => place.views.some(([key]) => key === view)) ?? (PLACES[3] as Place);

/** A view by its name in the address; the ladder where there is none. */
export const viewOf = (name: string | null): View =>
  PLACES.flatMap((place) => place.views.map(([key]) => key)).find((key) => key === name) ?? "practise";
