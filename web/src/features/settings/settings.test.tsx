import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { StudioChoices } from "../../api/client";
import { Refusal, draw, serve } from "../../testing/draw";
import { answers, studioChoices } from "../../testing/fixtures";
import { Limits } from "./Limits";
import { StudioPlace } from "./StudioPlace";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

const show = (stored: Partial<StudioChoices> = {}) => {
  const onChange = vi.fn<(limits: object) => Promise<unknown>>(() => Promise.resolve());
  serve(answers);
  draw(<Limits stored={{ ...studioChoices, ...stored }} isBusy={false} onChange={onChange} />);
  return onChange;
};
const field = (name: RegExp | string) => screen.findByRole("textbox", { name });
const type = (input: HTMLElement, value: string) => {
  fireEvent.change(input, { target: { value } });
  fireEvent.blur(input);
};

describe("limits by level", () => {
  it("shows shares in per cent and times in ms, as they usually are", async () => {
    show();
    expect(((await field("unevenness of a run, of its notes, elementary (%)")) as HTMLInputElement).value).toBe("9");
    expect(((await field("hands apart, elementary (ms)")) as HTMLInputElement).value).toBe("40");
    expect(screen.queryByRole("button", { name: "Back to the usual limits" })).toBeNull();
  });

  it("stores a limit of one's own as the share that it is, beside those that are there", async () => {
    const onChange = show({ limits: { advanced: { hands_apart_ms: 20 } } });
    type(await field("unevenness of a run, of its notes, elementary (%)"), "12,5");
    expect(onChange).toHaveBeenCalledWith({ advanced: { hands_apart_ms: 20 }, elementary: { evenness_share: 0.125 } });
  });

  it("takes a limit back by typing the usual one", async () => {
    const onChange = show({ limits: { elementary: { hands_apart_ms: 60, evenness_share: 0.2 } } });
    const own = await field("hands apart, elementary (ms)");
    expect((own as HTMLInputElement).value).toBe("60");
    type(own, "40");
    expect(onChange).toHaveBeenCalledWith({ elementary: { evenness_share: 0.2 } });
  });

  it("says within what a limit lies, and stores nothing else", async () => {
    const onChange = show();
    const input = await field("hands apart, elementary (ms)");
    for (const wrong of ["4000", "0", "", "many"]) {
      type(input, wrong);
      expect(input.getAttribute("aria-invalid")).toBe("true");
      expect(screen.getByText("5 to 300")).toBeTruthy();
    }
    expect(onChange).not.toHaveBeenCalled();
    fireEvent.keyDown(input, { key: "Escape" });
    expect((input as HTMLInputElement).value).toBe("40");
  });

  it("keeps what was typed when it could not be stored", async () => {
    const onChange = show();
    onChange.mockRejectedValue(new Error("no server"));
    const input = await field("hands apart, elementary (ms)");
    type(input, "55");
    await waitFor(() => expect(onChange).toHaveBeenCalledTimes(1));
    expect((input as HTMLInputElement).value).toBe("55");
  });

  it("goes back to all the usual ones", async () => {
    const onChange = show({ limits: { advanced: { hands_apart_ms: 20 } } });
    fireEvent.click(await screen.findByRole("button", { name: "Back to the usual limits" }));
    expect(onChange).toHaveBeenCalledWith({});
  });

  it("says why they cannot be shown", async () => {
    serve({ "GET /api/limits": new Refusal(500, { code: "broke", what: "The limits could not be read." }) });
    draw(<Limits stored={studioChoices} isBusy={false} onChange={() => Promise.resolve()} />);
    const said = within(await screen.findByRole("alert"));
    expect(said.getByText(/The limits could not be read\./)).toBeTruthy();
  });
});

describe("the studio", () => {
  it("is called and placed, and kept only where something is another", async () => {
    const { asked } = serve({
      "GET /api/studio": { name: "By the mill", time_zone: "Europe/Helsinki", sound_days: 30 },
      "GET /api/addresses": { addresses: [], install: null, fingerprint: null },
      "PUT /api/studio": { name: "Upstairs", time_zone: "" },
    });
    draw(<StudioPlace />);
    const name = await screen.findByRole("textbox", { name: "It is called" });
    const keep = screen.getByRole("button", { name: "Keep" }) as HTMLButtonElement;
    expect(keep.disabled).toBe(true);
    fireEvent.change(name, { target: { value: "Upstairs" } });
    fireEvent.change(screen.getByRole("combobox"), { target: { value: "" } });
    fireEvent.click(keep);
    await waitFor(() => expect(asked).toContain('PUT /api/studio {"name":"Upstairs","time_zone":"","sound_days":30}'));
  });
});
