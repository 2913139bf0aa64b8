import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { HandChoice, Schemas } from "../../api/client";
import { type PlayChoice, readChoice } from "../../session/choice";
import { session } from "../../session/current";
import { REST, type State } from "../../session/state";
import { TapTempo } from "../../session/tapTempo";
import { draw } from "../../testing/draw";
import { answers, counts, piece } from "../../testing/fixtures";
import { NowPlaying } from "./NowPlaying";
import { PlayCard, PlayChoices } from "./PlayCard";

const options = answers[`GET /api/pieces/${piece.id}/play-options`] as Schemas["PlayOptions"];
const usual = readChoice(piece.id, options.levels as Record<Schemas["Track"], number>);
const onChoice = vi.fn<(part: Partial<PlayChoice>) => void>();

beforeEach(() => {
  onChoice.mockClear();
  for (const does of ["play", "stop"] as const) vi.spyOn(session, does).mockReturnValue(undefined);
});

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  localStorage.clear();
});

type Shown = { choice?: Partial<PlayChoice>; state?: Partial<State>; hand?: HandChoice };
const show = ({ choice = {}, state = {}, hand = "both" }: Shown = {}) => {
  const now: State = { ...REST, ...state };
  vi.spyOn(session, "snapshot").mockReturnValue(now);
  const props = { piece, options, choice: { ...usual, ...choice }, onChoice, bpm: 66, hand };
  draw(
    <>
      <PlayChoices {...props} onHand={() => undefined} />
      <PlayCard
        {...props}
        counts={counts}
        onBpm={() => undefined}
        tapTempo={new TapTempo()}
        onHand={() => undefined}
        measures="1-4"
        passageWords="bars 1–4"
        session={session}
        state={now}
        stand={null}
      />
    </>,
  );
};
const button = (name: RegExp | string) => screen.getByRole<HTMLButtonElement>("button", { name });

describe("play along", () => {
  it("says what will happen before it does, and the caution beside the volume", () => {
    show();
    expect(screen.getByText(/Counted in, then together\. Now: bars 1–4\./)).toBeTruthy();
    expect(screen.getByText(options.caution)).toBeTruthy();
    fireEvent.click(screen.getAllByRole("button", { name: /^Play along/ }).at(-1) as HTMLElement);
    expect(session.play).toHaveBeenCalledOnce();
  });

  it("shows whose turn it is while an echo plays, and stops", () => {
    show({
      choice: { mode: "echo" },
      state: { phase: "playing", role: "room", counting: "3", stretches: 4, stretch: 1 },
    });
    expect(screen.getByText("2 of 4")).toBeTruthy();
    expect(screen.getAllByText("Your turn").length).toBeGreaterThan(0);
    fireEvent.click(button(/^Stop/));
    expect(session.stop).toHaveBeenCalledOnce();
  });

  it("offers of its choices those that its mode has", () => {
    show({ choice: { mode: "hear" } });
    expect(screen.getByRole("button", { name: /^Then slowly at/ })).toBeTruthy();
    expect(screen.queryByRole("button", { name: /^Rounds|^Backing: as|^A turn is/ })).toBeNull();
  });

  it("asks for a gap only where rounds come after one", () => {
    show({ choice: { rounds: 2, between: "straight" } });
    expect(screen.queryByRole("group", { name: "Gap" })).toBeNull();
    cleanup();
    show({ choice: { rounds: 2, between: "gap", gapBeats: 16 } });
    expect(button("longer gap").disabled).toBe(true);
    fireEvent.click(button("shorter gap"));
    expect(onChoice).toHaveBeenCalledWith({ gapBeats: 15 });
  });

  it("mixes each track by itself, and only the hand that is asked for", () => {
    show({ hand: "left" });
    expect(screen.queryByRole("button", { name: /^Right hand/ })).toBeNull();
    fireEvent.change(screen.getByRole("slider", { name: "how loud: Click" }), { target: { value: "25" } });
    expect(onChoice.mock.calls.at(-1)?.[0].mix?.levels).toEqual({ ...usual.mix.levels, click: 0.25 });
    fireEvent.click(button("Left hand: sounds"));
    expect(onChoice.mock.calls.at(-1)?.[0].mix?.muted).toEqual({ ...usual.mix.muted, left: true });
    fireEvent.click(button("rests, whispered"));
    expect(onChoice.mock.calls.at(-1)?.[0].mix?.said).toEqual({ ...usual.mix.said, rest: false });
  });

  it("gives as a file what sounds now", () => {
    show();
    const address = new URL(screen.getByRole<HTMLAnchorElement>("link", { name: "WAV" }).href);
    expect(address.pathname).toBe(`/api/pieces/${piece.id}/sound`);
    expect(Object.fromEntries(address.searchParams)).toMatchObject({ format: "wav", bpm: "66", measures: "1-4" });
  });

  it("tells how exact the sound was only when it was measured", () => {
    show();
    expect(screen.getByText(/Play something with the click on, then look here\./)).toBeTruthy();
    cleanup();
    const exactness = { clicks: 40, missed: 0, furthest_ms: 0.021, minutes: 0.5, drift_ms: -0.4 };
    show({ state: { exactness } });
    expect(screen.getByText(/40 clicks measured as rendered: the furthest lay 0\.02 ms/)).toBeTruthy();
  });
});

describe("what plays while another view is on the screen", () => {
  const playing = {
    ...REST,
    phase: "playing",
    playing: { pieceId: piece.id, title: piece.title, student: 3 },
    counting: "2",
  } as const;

  it("has a way to stop it and a way back", () => {
    vi.spyOn(session, "snapshot").mockReturnValue(playing);
    draw(<NowPlaying />, { at: "/settings" });
    expect(screen.getByRole("link", { name: piece.title }).getAttribute("href")).toBe(
      `/pieces/${piece.id}?view=play&student=3`,
    );
    fireEvent.click(button("Stop"));
    expect(session.stop).toHaveBeenCalledOnce();
  });

  it("is not told twice where it plays", () => {
    vi.spyOn(session, "snapshot").mockReturnValue(playing);
    draw(<NowPlaying />, { at: `/pieces/${piece.id}?view=play` });
    expect(screen.queryByRole("region", { name: "Playing" })).toBeNull();
  });
});
