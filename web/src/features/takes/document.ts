/** The parts of a check's document that the screens show (docs/checking.md describes all of it). */
type Place = { measure: string; offset: string; pass: number };

export type CheckDocument = {
  followed: boolean;
  matched: number;
  missing: { onset_quarters: number; hand: "right" | "left" | "both" }[];
  extra: { onset_quarters: number | null; hand: string | null }[];
  wrong: { onset_quarters: number; hand: "right" | "left" | "both" }[];
  restarts: { t: number; from: Place }[];
  tempo: { assigned_bpm: number; median_bpm: number | null; drift_percent: number | null; per_measure: { measure: string; pass: number; bpm: number }[] };
  notes: { onset_quarters: number; hand: "right" | "left" | "both"; deviation_ms: number; click_deviation_ms: number | null; uncertainty_ms: number }[];
  evenness: { hand: string; from: Place; to: Place; intervals: number; interval_quarters: string; cv_percent: number; npvi: number; kind: string; judged: boolean }[];
  ratio_figures?: { hand: string; written: string; length_quarters: string; times: number; played: number[]; reads_as: string; judged: boolean }[];
  rests: (Place & { hand: string; ran_over_ms: number | null; entry_ms: number })[];
  together: { points: number; median_ms: number | null; mean_signed_ms: number | null; leader: "right" | "left" | "none" };
  hesitations: (Place & { excess_ms: number; excess_beats: number; causes: string[] })[];
  findings: { code: string; place: Place; amount: number; limit: number; unit: string; sure: number; hand: string }[];
  withheld: { what: string; why: string }[];
  limits: { deviation_ms: number; together_ms: number; tempo_percent: number; drift_percent: number; hesitation_ms: number };
};
