import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Activity, NextStep, Rung, Schemas } from "../../api/client";
import { ApiError } from "../../api/client";
import type { CardChoice } from "../../session/cardChoice";
import { keyboards, session } from "../../session/current";
import { REST, type State } from "../../session/state";
import { startMix } from "../../sound/mix";
import { draw, serve } from "../../testing/draw";
import { answers, counts, piece, study, take } from "../../testing/fixtures";
import { DemoCorner } from "./DemoCorner";
import { FreeCard } from "./FreeCard";
import { Listening, LiveTake } from "./LiveTake";
import { Outcome } from "./Outcome";
import { RungCard } from "./RungCard";
import { TakeSettings } from "./Settings";
import { SimulateDialog } from "./SimulateDialog";
import { Stand } from "./Stand";
import { TapZones } from "./TapZones";

const options = answers[`GET /api/pieces/${piece.id}/play-options`] as Schemas["PlayOptions"];
const CHOICE: CardChoice = {
  hand: "both",
  bpm: 66,
  rounds: 1,
  freeRounds: 1,
  clickThrough: true,
  isRound: true,
  isSpoken: true,
};
const NEXT: NextStep = {
  rung: "",
  text: "",
  onward: "",
  clips: [],
  move: null,
  bpm: 66,
  is_passed: false,
  newly: false,
  to: null,
  is_enough: false,
};

const unsent: NonNullable<State["unsent"]> = {
  activity: "lap",
  bpm: 66,
  hands: "both",
  times_round: 1,
  taps: [],
  notes: [],
  pedal: [],
  stand_in: false,
  first_beat_s: 2,
  client_key: "a-take-of-this-device",
};

const rungOf = (stage: Rung["stage"], part: Partial<Rung> = {}): Rung => {
  const found = study.rungs.find((rung) => rung.stage === stage);
  if (!found) throw new Error(`the fixture has no rung ${stage}`);
  return { ...found, ...part };
};

beforeEach(() => {
  for (const does of ["play", "stop", "record", "listen", "tap", "sendAgain"] as const)
    vi.spyOn(session, does).mockReturnValue(undefined);
});

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
  localStorage.clear();
});

describe("the card of a rung", () => {
  const show = (
    rung: Rung,
    {
      state = {},
      choice = {},
      loop = null,
      onBack = null,
    }: {
      state?: Partial<State>;
      choice?: Partial<CardChoice>;
      loop?: "left" | null;
      onBack?: (() => void) | null;
    } = {},
  ) => {
    const does = {
      onBpm: vi.fn(),
      onLineUp: vi.fn(),
      onTapCount: vi.fn(),
      onEdit: vi.fn(),
      onRungBars: vi.fn(),
      onLoop: vi.fn(),
    };
    draw(
      <RungCard
        piece={piece}
        study={study}
        rung={rung}
        counts={counts}
        choice={{ ...CHOICE, ...choice }}
        bpm={rung.bpm}
        otherBars={null}
        loop={loop}
        onBack={onBack}
        session={session}
        state={{ ...REST, ...state }}
        keyboards={keyboards}
        outcome={<p>what came of it</p>}
        settings={<p>how it sounds</p>}
        {...does}
      />,
    );
    return does;
  };

  it("says what to do and why, what passes it, and the count-in", () => {
    const lap = rungOf("lap", { clean: [true, false], tries_today: 2, touch: "drop from the wrist" });
    show(lap);
    expect(screen.getByText(lap.task)).toBeTruthy();
    expect(screen.getByText(`Why: ${lap.why}`)).toBeTruthy();
    expect(screen.getByText("Touch: drop from the wrist")).toBeTruthy();
    expect(screen.getByText(/Passed by one clean take/)).toBeTruthy();
    expect(screen.getByText("1 clean · 2 tries of 6 today")).toBeTruthy();
    expect(screen.getByRole("img", { name: "1 clean of the last 2" })).toBeTruthy();
    expect(screen.getByText(/^Count in/).textContent?.trim()).toBe(`Count in ${counts.count_in.join(" ")}`);
  });

  it("starts as many rounds as are chosen; what is heard or said is played along with, and done by word", async () => {
    show(rungOf("lap"), { choice: { rounds: 3 } });
    fireEvent.click(screen.getByRole("button", { name: /^Start the rounds/ }));
    expect(session.record).toHaveBeenCalledWith(3);
    cleanup();
    const { asked } = serve({ ...answers, [`POST /api/studies/${study.id}/words`]: study });
    show(rungOf("hear"));
    expect(screen.queryByRole("button", { name: /^Start the rounds|^Record/ })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: /^Hear it/ }));
    expect(session.play).toHaveBeenCalledOnce();
    fireEvent.click(screen.getByRole("button", { name: "Done" }));
    const word = { rung: rungOf("hear").key, by: "the student", why: "", back: false };
    await waitFor(() => expect(asked).toEqual([`POST /api/studies/${study.id}/words ${JSON.stringify(word)}`]));
  });

  it("offers taps of the count, and lining up, where these are", () => {
    const { onTapCount } = show(rungOf("count"));
    fireEvent.click(screen.getByRole("button", { name: "Tap it instead" }));
    expect(onTapCount).toHaveBeenCalledOnce();
    cleanup();
    const { onLineUp } = show(rungOf("line-up"));
    fireEvent.click(screen.getByRole("button", { name: "Line it up" }));
    expect(onLineUp).toHaveBeenCalledOnce();
  });

  it("is passed by the teacher's word, with her reason where she gives one", async () => {
    const { asked } = serve({ ...answers, [`POST /api/studies/${study.id}/words`]: study });
    const join = rungOf("join");
    show(join);
    fireEvent.click(screen.getByRole("button", { name: "Pass it by your word" }));
    fireEvent.change(screen.getByLabelText("Why you pass it"), { target: { value: " Heard in the lesson. " } });
    fireEvent.click(screen.getByRole("button", { name: "Pass it" }));
    const word = { rung: join.key, by: "the teacher", why: "Heard in the lesson.", back: false };
    await waitFor(() => expect(asked).toEqual([`POST /api/studies/${study.id}/words ${JSON.stringify(word)}`]));
    cleanup();
    show({ ...join, state: "passed", passed_by: "the teacher", passed_why: "Heard in the lesson." });
    expect(screen.getByText("passed, by the teacher: Heard in the lesson.")).toBeTruthy();
  });

  it("is tested by the other hand, looped; who cannot keep up goes back a rung", () => {
    const onBack = vi.fn();
    show(rungOf("join"), { loop: "left", onBack });
    expect(screen.getByText(/Keep up with it before you go on/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Back a rung" }));
    expect(onBack).toHaveBeenCalledOnce();
  });

  it("says when it is enough for today", () => {
    show(rungOf("join", { is_enough: true, tries_today: 6 }));
    expect(screen.getByText(/Enough of this for today/)).toBeTruthy();
  });
});

describe("practising freely", () => {
  const onChoice = vi.fn<(part: Partial<CardChoice>) => void>();
  const onMix = vi.fn();
  const onBpm = vi.fn();
  const show = (
    activity: Activity,
    {
      state = {},
      choice = {},
      canGoRound = false,
    }: { state?: Partial<State>; choice?: Partial<CardChoice>; canGoRound?: boolean } = {},
  ) => {
    onChoice.mockClear();
    onBpm.mockClear();
    const own = { ...CHOICE, ...choice };
    const now = { ...REST, ...state };
    const shared = { piece, session, state: now };
    draw(
      <FreeCard
        student={study.student_id}
        {...shared}
        activity={activity}
        counts={counts}
        choice={own}
        bpm={own.bpm}
        onBpm={onBpm}
        onHand={(hand) => onChoice({ hand })}
        takeWords="bars 1–8"
        density={null}
        onAsCounted={vi.fn()}
        keyboards={keyboards}
        outcome={<Outcome {...shared} onCure={onCure} />}
        settings={
          <TakeSettings
            choice={own}
            onChoice={onChoice}
            rounds={own.freeRounds}
            onRounds={(freeRounds) => onChoice({ freeRounds })}
            mix={startMix(options.levels as Parameters<typeof startMix>[0])}
            onMix={onMix}
            onMore={() => undefined}
            session={session}
            busy={now.phase !== "idle"}
            canGoRound={canGoRound}
            stand={null}
          />
        }
      />,
    );
  };
  const onCure = vi.fn();
  const button = (name: RegExp | string) => screen.getByRole<HTMLButtonElement>("button", { name });

  it("says what to do, of what, and the count-in", () => {
    show("lap");
    expect(screen.getByText(/Both hands tap the rhythm on the knees/)).toBeTruthy();
    expect(screen.getByText(/^Now bars 1–8/)).toBeTruthy();
    expect(screen.getByText(/^Count in/).textContent?.trim()).toBe(`Count in ${counts.count_in.join(" ")}`);
  });

  it("plays along, records as many rounds as are chosen, and listens", () => {
    show("lap", { choice: { freeRounds: 3 } });
    fireEvent.click(button(/^Play along/));
    fireEvent.click(button(/^Record/));
    fireEvent.click(button(/^Listen and mark/));
    expect(session.play).toHaveBeenCalledOnce();
    expect(session.record).toHaveBeenCalledWith(3);
    expect(session.listen).toHaveBeenCalledOnce();
  });

  it("stops what runs, and starts nothing beside it", () => {
    show("lap", { state: { phase: "playing" } });
    fireEvent.click(button(/^Stop/));
    expect(session.stop).toHaveBeenCalledOnce();
    for (const name of [/^Record/, /^Listen and mark/, /^Slower/]) expect(button(name).disabled).toBe(true);
  });

  it("goes from one mark of the metronome to the next, and not past the last", () => {
    show("lap", { choice: { bpm: 65 } });
    fireEvent.click(button(/^Slower/));
    fireEvent.click(button(/^Faster/));
    expect(onBpm.mock.calls).toEqual([[63], [66]]);
    cleanup();
    show("lap", { choice: { bpm: piece.metronome_marks.at(-1) ?? 0 } });
    expect(button(/^Faster/).disabled).toBe(true);
  });

  it("lets one or two bars go four times round as one take, and says nothing of it of more", () => {
    show("lap");
    expect(screen.queryByRole("switch", { name: /Four times round/ })).toBeNull();
    cleanup();
    show("lap", { canGoRound: true });
    fireEvent.click(screen.getByRole("switch", { name: "Four times round, as one take" }));
    expect(onChoice).toHaveBeenCalledWith({ isRound: false });
  });

  it("keeps rounds between one and ten, and mutes a track", () => {
    show("lap", { choice: { freeRounds: 10 } });
    expect(button("more: Hands-free rounds").disabled).toBe(true);
    fireEvent.click(button("fewer: Hands-free rounds"));
    expect(onChoice).toHaveBeenCalledWith({ freeRounds: 9 });
    fireEvent.click(within(screen.getByRole("group", { name: "Play along sounds" })).getByText("click"));
    expect(onMix).toHaveBeenCalledWith(
      expect.objectContaining({ muted: expect.objectContaining({ click: true }) as object }),
    );
  });

  it("asks for a keyboard only at the keys", async () => {
    show("lap");
    expect(screen.queryByRole("group", { name: "Keyboard" })).toBeNull();
    cleanup();
    show("play");
    expect(await screen.findByRole("group", { name: "Keyboard" })).toBeTruthy();
  });

  it("tells the verdict in short and what comes now, with the way to the take and its cure", () => {
    show("play", { state: { take, next: { ...NEXT, onward: "Again, slower: 60." } } });
    const said = within(screen.getByText("not yet").closest("[role=status]") as HTMLElement);
    expect(said.getByText(take.verdict?.finding?.text ?? "")).toBeTruthy();
    expect(said.getByText("Again, slower: 60.")).toBeTruthy();
    expect(screen.getByRole("link").getAttribute("href")).toBe(`/pieces/${piece.id}/takes/${take.id}`);
    fireEvent.click(button(/^Do that/));
    expect(onCure).toHaveBeenCalledWith(take.verdict?.cure);
  });

  it("asks how it was, and stops for what hurts", async () => {
    serve({ ...answers, [`POST /api/takes/${take.id}/feel`]: study });
    show("play", { state: { take, next: NEXT } });
    fireEvent.click(button("it hurts"));
    expect(await screen.findByText(/Stop now, and rest/)).toBeTruthy();
  });

  it("keeps a take that could not be sent, and sends it again", () => {
    const problem = new ApiError(0, "offline", "Lap Tick’s server does not answer.", null, null, null);
    show("lap", { state: { problem, unsent: { ...unsent } } });
    expect(screen.getByRole("alert").textContent).toContain("The take is kept on this device.");
    fireEvent.click(button("Send it again"));
    expect(session.sendAgain).toHaveBeenCalledOnce();
  });
});

describe("tap zones", () => {
  it("are two hands, struck when the finger comes down, and only while a take is recorded", () => {
    draw(<TapZones session={session} live single={false} />);
    const [left, right] = screen.getAllByRole("button");
    fireEvent.pointerDown(left as HTMLElement);
    fireEvent.pointerDown(right as HTMLElement);
    expect(vi.mocked(session.tap).mock.calls.map(([hand]) => hand)).toEqual(["left", "right"]);
    cleanup();
    draw(<TapZones session={session} live={false} single />);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: /tap each word/ }).disabled).toBe(true);
  });
});

const stand = (
  <Stand piece={piece} counts={counts} hands="both" bpm={66} passageWords="whole piece" title="Tap now" ruler={null}>
    <p>the foot</p>
  </Stand>
);

describe("while it runs", () => {
  it("ends a take or discards it, and lights the hand that tapped", () => {
    vi.spyOn(session, "discard").mockReturnValue(undefined);
    const onTap = vi.fn();
    draw(<LiveTake session={session} live activity="lap" isHeard={false} onTap={onTap} />);
    fireEvent.pointerDown(screen.getByRole("button", { name: /left/ }));
    expect(onTap).toHaveBeenCalledWith("left");
    fireEvent.click(screen.getByRole("button", { name: "End" }));
    fireEvent.click(screen.getByRole("button", { name: "Discard" }));
    expect(session.stop).toHaveBeenCalledOnce();
    expect(session.discard).toHaveBeenCalledOnce();
    cleanup();
    draw(<LiveTake session={session} live activity="play" isHeard={false} onTap={onTap} />);
    expect(screen.queryByRole("group", { name: "Tap zones" })).toBeNull();
  });

  it("marks a slip at the moment at which the finger comes down", () => {
    vi.spyOn(session, "slip").mockReturnValue(undefined);
    draw(<Listening session={session} slips={1} />);
    expect(screen.getByText("1 slip marked")).toBeTruthy();
    fireEvent.pointerDown(screen.getByRole("button", { name: /I heard a slip/ }));
    expect(vi.mocked(session.slip).mock.calls[0]?.[0]).toBeTypeOf("number");
  });

  it("stands on the stand with the count that is said now, and a size that stays on this device", () => {
    draw(stand);
    expect(screen.getByRole("region", { name: "Tap now" })).toBeTruthy();
    expect(screen.getByText("the foot")).toBeTruthy();
    expect(document.querySelector("[data-count-now]")?.textContent).toBe("…");
  });

  it("has the keyboard to itself while it stands, and gives it back", () => {
    const Page = () => {
      const [shown, setShown] = useState(false);
      return (
        <div onKeyDown={() => setShown(!shown)}>
          <button type="button">below</button>
          <div>{shown ? stand : null}</div>
        </div>
      );
    };
    draw(<Page />);
    const below = screen.getByText("below");
    below.focus();
    fireEvent.keyDown(below);
    expect(below.hasAttribute("inert")).toBe(true);
    expect(document.activeElement?.getAttribute("aria-label")).toBe("The ruler");
    fireEvent.keyDown(below);
    expect(below.hasAttribute("inert")).toBe(false);
    expect(document.activeElement).toBe(below);
  });
});

describe("the demo corner", () => {
  const show = (onKeys: boolean, faults = 0) => {
    const [onSimulate, onPlan] = [vi.fn(), vi.fn()];
    draw(
      <DemoCorner
        keyboards={keyboards}
        onKeys={onKeys}
        faults={faults}
        disabled={false}
        onSimulate={onSimulate}
        onPlan={onPlan}
      />,
    );
    fireEvent.click(screen.getByText(/A student to try it with/));
    return { onSimulate, onPlan };
  };

  it("lets the simulated student play, on every rung", () => {
    const { onSimulate } = show(false);
    fireEvent.click(screen.getByRole("button", { name: /Let the simulated student play/ }));
    expect(onSimulate).toHaveBeenCalledOnce();
    expect(screen.queryByRole("button", { name: "Use the stand-in" })).toBeNull();
  });

  it("has a stand-in keyboard where it is played on keys", () => {
    const { onPlan } = show(true, 2);
    fireEvent.click(screen.getByRole("button", { name: "Use the stand-in" }));
    expect(screen.getByText(/it plays with 2 faults/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Change it …" }));
    expect(onPlan).toHaveBeenCalledOnce();
  });
});

describe("the simulated student", () => {
  const show = (keys: boolean) => {
    serve(answers);
    const onPlay = vi.fn();
    draw(
      <SimulateDialog
        piece={piece}
        keys={keys}
        standIn={false}
        open
        busy={false}
        problem={null}
        onClose={() => undefined}
        onPlay={onPlay}
      />,
    );
    return onPlay;
  };
  const add = async () => fireEvent.click(await screen.findByRole("button", { name: "Add a fault" }));

  it("plays at the piece's level, cleanly unless a fault is added", async () => {
    const onPlay = show(false);
    await screen.findByRole("button", { name: "Add a fault" });
    fireEvent.click(screen.getByRole("button", { name: "Let it play" }));
    expect(onPlay).toHaveBeenCalledWith({ skill: piece.level, faults: [] });
  });

  it("has at most three faults, each as strong as the server says a clear one is", async () => {
    const onPlay = show(true);
    const [first] = answers["GET /api/faults"] as Schemas["FaultChoice"][];
    if (!first) throw new Error("the fixture has faults");
    for (let fault = 0; fault < 3; fault++) await add();
    await waitFor(() => expect(screen.queryByRole("button", { name: "Add a fault" })).toBeNull());
    fireEvent.click(screen.getAllByRole("button", { name: "Remove this fault" })[0] as HTMLElement);
    fireEvent.click(screen.getByRole("button", { name: "Let it play" }));
    const planted = { kind: first.kind, amount: first.amounts[1], measure: first.needs_measure ? "2" : null };
    expect(onPlay).toHaveBeenCalledWith({ skill: piece.level, faults: [planted, planted] });
  });
});
