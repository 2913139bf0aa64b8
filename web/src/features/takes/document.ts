/** The parts of a check's document that the screens show (docs/checking.md describes all of it). What later versions
 * of the checker added may be missing from older judgements. */
export type Place = { measure: string; offset: string; pass: number };
export type HandName = "right" | "left" | "both";

export type CheckDocument = {
  followed: boolean;
  source: "midi" | "taps" | "audio";
  matched: number;
  missing: { onset_quarters: number; hand: HandName }[];
  extra: { onset_quarters: number | null; hand: string | null }[];
  wrong: { onset_quarters: number; hand: HandName }[];
  ornaments?: unknown[];
  restarts: { t: number; from: Place; repeat?: boolean }[];
  skips?: { from: Place; to: Place; repeat: boolean }[];
  passage?: { measures: string; words: string } | null;
  tempo: { assigned_bpm: number; median_bpm: number | null; off_percent?: number | null; drift_percent: number | null; per_measure: { measure: string; pass: number; bpm: number }[] };
  notes: { onset_quarters: number; hand: HandName; deviation_ms: number; deviation_percent?: number; click_deviation_ms: number | null; uncertainty_ms: number }[];
  evenness: {
    hand: string; from: Place; to: Place; intervals: number; interval_quarters: string; cv_percent: number; npvi: number; kind: string; judged: boolean;
    played?: number[]; onset_quarters?: number; worst_gap?: Place & { percent: number };
  }[];
  ratio_figures?: { hand: string; written: string; length_quarters: string; length?: string; times: number; played: number[]; reads_as: string; judged: boolean }[];
  long_notes: (Place & { hand: string; written_quarters: string; to_next_quarters: number | null; sounded_quarters: number | null })[];
  rests: (Place & { hand: string; ran_over_ms: number | null; entry_ms: number; onset_quarters?: number })[];
  together: {
    points: number; median_ms: number | null; mean_signed_ms: number | null; spread_ms?: number | null; leader: "right" | "left" | "none";
    gaps?: (Place & { gap_ms: number; onset_quarters: number })[];
  };
  hesitations: (Place & { excess_ms: number; excess_beats: number; causes: string[] })[];
  bends?: (Place & { kind: string; went: string; as_written: boolean; change_percent: number })[];
  recovery?: (Place & { slip: string; beats: number | null })[];
  touch?: Touch | null;
  joining?: { hand: string; what: string; unit: string; alone: number; together: number }[];
  pooled?: {
    deviations: { hand: string; notes: number; mean_ms: number; spread_ms: number; spread_percent: number }[];
    evenness: { hand: string; interval_quarters: string; notes: string; intervals: number; judged: boolean; cv_percent: number; npvi: number }[];
    rests: { entries: number; entry_ms: number | null; latest_ms: number | null; ran_over_ms: number | null };
    long_notes: { notes: number; to_next_share: number | null; sounded_share: number | null };
  };
  findings: { code: string; text?: string; place: Place; place_text?: string; amount: number; limit: number; unit: string; sure: number; hand: string }[];
  withheld: { what: string; why: string }[];
  limits: { deviation_ms: number; together_ms: number; tempo_percent: number; drift_percent: number; hesitation_ms: number; cut_ms?: number; over_ms?: number };
};

export type Touch = {
  lengths: { hand: string; kind: string; notes: number; sounded_share: number }[];
  strengths: Record<string, number>;
  swells: (Place & { text: string; notes: number; change: number; step_back: number; as_written: boolean })[];
  pedal: { changes: number; after_strike_ms: number | null };
  smears: (Place & { pitch: number })[];
};
