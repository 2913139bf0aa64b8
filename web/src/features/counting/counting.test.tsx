import { act, cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Choices, Counts } from "../../api/client";
import { Refusal, draw, serve } from "../../testing/draw";
import { answers, counts, piece } from "../../testing/fixtures";
import { layerWords, withBar } from "./BarChoices";
import { CountPanel } from "./CountPanel";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

const at = `/api/pieces/${piece.id}`;
const show = (shown: Partial<Counts> = {}, more: Record<string, unknown> = {}) => {
  const onBar = vi.fn<(onset_quarters: number) => void>();
  const server = serve({ ...answers, ...more });
  draw(
    <CountPanel pieceId={piece.id} bpm={66} counts={{ ...counts, ...shown }} disabled={false} onBar={onBar} isOpen />,
  );
  return { ...server, onBar };
};
const choicesAreThere = async (asked: string[]) => {
  await waitFor(() => expect(asked).toContain(`GET ${at}/choices`));
  await act(() => new Promise((resolve) => setTimeout(resolve, 20)));
};
const choose = async (label: RegExp, option: string) => {
  fireEvent.click(screen.getByRole("button", { name: label }));
  fireEvent.click(await screen.findByRole("option", { name: option }));
};

describe("how a piece is counted", () => {
  it("shows what holds, and why", () => {
    show();
    expect(screen.getByRole("button", { name: /^Way of counting: numbers/ })).toBeTruthy();
    expect(screen.getByText(counts.reasons.system)).toBeTruthy();
    expect(screen.getByText(counts.reasons.density)).toBeTruthy();
    expect(screen.queryByRole("button", { name: /^Counted/ })).toBeNull(); // 4/4 has no units to count in
    expect(screen.queryByRole("button", { name: /^Grouped/ })).toBeNull(); // … and no groups
  });

  it("says what a length is worth in each time signature", () => {
    show({
      worth: [
        { signature: "4/4", length: "eighth", counts: "1/2" },
        { signature: "4/4", length: "quarter", counts: "1" },
        { signature: "6/8", length: "quarter", counts: "2" },
      ],
    });
    expect(screen.getByText("In 4/4:").parentElement?.textContent).toBe("In 4/4: eighth ½, quarter 1");
    expect(screen.getByText("In 6/8:").parentElement?.textContent).toBe("In 6/8: quarter 2");
  });

  it("stores a choice beside those that are there", async () => {
    const stored = answers[`GET ${at}/choices`] as Choices;
    const { asked } = show({}, { [`PUT ${at}/counts`]: { counts, choices: stored } });
    await choicesAreThere(asked);
    await choose(/^How much/, "“ands” through the whole piece");
    await waitFor(() => expect(asked.some((one) => one.startsWith("PUT"))).toBe(true));
    const sent: unknown = JSON.parse(
      asked
        .find((one) => one.startsWith("PUT"))
        ?.split(" ")
        .slice(2)
        .join(" ") ?? "",
    );
    expect(sent).toMatchObject({ ...stored, piece: { ...stored.piece, density: "steady" } });
  });

  it("says why a choice could not be stored", async () => {
    const what = "The choices could not be stored.";
    const { asked } = show({}, { [`PUT ${at}/counts`]: new Refusal(503, { code: "busy", what }) });
    await choicesAreThere(asked);
    await choose(/^How much/, "“ands” through the whole piece");
    await waitFor(() => expect(asked.some((one) => one.startsWith("PUT"))).toBe(true));
    expect((await screen.findByRole("alert")).textContent).toContain(what);
  });

  it("leads from what to look out for, and from a rest, to its bar", () => {
    const { onBar } = show();
    const [syncopation] = counts.syncopations;
    const [rest] = counts.rests;
    if (!syncopation || !rest) throw new Error("the fixture has both");
    fireEvent.click(screen.getAllByRole("button", { name: new RegExp(`bar 2`) })[0] as HTMLElement);
    expect(onBar).toHaveBeenLastCalledWith(syncopation.onset_quarters);
    expect(screen.getByText(new RegExp(rest.good_for))).toBeTruthy();
  });
});

describe("a bar counted another way", () => {
  const choices: Choices = { piece: {}, hands: {}, bars: { "2": { density: "steady" } }, syllables: [] };

  it("is kept beside the other bars", () => {
    expect(withBar(choices, "5", { system: "function" })).toEqual({
      "2": { density: "steady" },
      "5": { system: "function" },
    });
  });

  it("is forgotten when nothing of its own is left", () => {
    expect(withBar(choices, "2", { density: null })).toEqual({});
  });

  it("is told in words, in the studio's names of lengths", () => {
    const layer = { system: "numbers", density: "steady", beat: "quarter", grouping: "2+3" } as const;
    expect(layerWords(layer, "american")).toMatch(/^numbers: .*; the beat in quarters; grouped 2 \+ 3$/);
    expect(layerWords({ beat: "quarter" }, "british")).toBe("the beat in crotchets");
    expect(layerWords({}, "american")).toBe("");
  });
});

it("draws nothing to choose of a bar's groups where there are none", () => {
  show();
  expect(within(screen.getByRole("region", { name: "How it is counted" })).queryByText("Grouped")).toBeNull();
});
