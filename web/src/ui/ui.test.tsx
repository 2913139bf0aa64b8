import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { draw } from "../testing/draw";
import { Choice } from "./Choice";
import { CountText } from "./CountText";
import { More } from "./More";
import { TempoMark } from "./Tempo";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

describe("a choice", () => {
  const options = [
    ["a", "one"],
    ["b", "other"],
  ] as const;

  it("opens its list on the first press, though that is loaded only then, and says what was chosen", async () => {
    const onChange = vi.fn();
    draw(<Choice label="Which" value="a" options={options} hint="What it is for." onChange={onChange} />);
    expect(screen.getByText("What it is for.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Which: one" }));
    fireEvent.click(await screen.findByRole("option", { name: "other" }));
    expect(onChange).toHaveBeenCalledWith("b");
    // Once it was used it explains itself no more, on this device.
    await waitFor(() => expect(screen.queryByText("What it is for.")).toBeNull());
    cleanup();
    draw(<Choice label="Which" value="a" options={options} hint="What it is for." onChange={onChange} />);
    expect(screen.queryByText("What it is for.")).toBeNull();
  });
});

describe("a menu", () => {
  it("shows what can be done, does it, and closes on Escape", () => {
    const onRemove = vi.fn();
    draw(<More label="More for this" items={[["Remove", onRemove]]} />);
    const sign = screen.getByRole("button", { name: "More for this" });
    expect(screen.queryByRole("menu")).toBeNull();
    fireEvent.click(sign);
    fireEvent.keyDown(screen.getByRole("menu"), { key: "Escape" });
    expect(screen.queryByRole("menu")).toBeNull();
    fireEvent.click(sign);
    fireEvent.click(screen.getByRole("menuitem", { name: "Remove" }));
    expect(onRemove).toHaveBeenCalledOnce();
    expect(screen.queryByRole("menu")).toBeNull();
  });
});

it("counts in a line of text have one sign for a rest, and say so to a reader", () => {
  const { container } = draw(<CountText text="1 (2) [3] & []" />);
  expect(container.textContent).toBe("1 (2) 3 rest & \u2002 rest");
});

it("a tempo in 5/8 says what its eighth comes to", () => {
  draw(<TempoMark beat={{ beat_quarters: "1", beat_name: "quarter", unit_name: "eighth" }} bpm={84} />);
  expect(screen.getByText(/eighth = 168/)).toBeTruthy();
  expect(screen.getByRole("img", { name: "quarter" })).toBeTruthy();
});
