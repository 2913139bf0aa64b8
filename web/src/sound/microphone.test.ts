import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { MIC_WORDS, Microphone, RAW } from "./microphone";

const ask = vi.fn<(how: MediaStreamConstraints) => Promise<MediaStream>>();

beforeEach(() => {
  localStorage.clear();
  ask.mockReset();
  vi.stubGlobal("isSecureContext", true);
  vi.stubGlobal("MediaRecorder", vi.fn());
  vi.stubGlobal("navigator", { mediaDevices: { getUserMedia: ask, enumerateDevices: () => Promise.resolve([]) } });
});
afterEach(() => vi.unstubAllGlobals());

describe("the microphone", () => {
  it.each([
    ["NotAllowedError", "refused"],
    ["NotFoundError", "missing"],
    ["NotReadableError", "busy"],
    ["SomethingElse", "missing"],
  ] as const)("says why it cannot be had: %s", async (name, access) => {
    ask.mockRejectedValue(new DOMException("no", name));
    const microphone = new Microphone();
    await expect(microphone.open()).rejects.toMatchObject({ code: "no-microphone", message: MIC_WORDS[access][0] });
    expect(microphone.snapshot().access).toBe(access);
    expect(ask).toHaveBeenCalledWith({ audio: RAW });
  });

  it("is not asked for where this address may not have one, and says so", async () => {
    vi.stubGlobal("isSecureContext", false);
    const microphone = new Microphone();
    expect(microphone.snapshot().access).toBe("insecure");
    await expect(microphone.open()).rejects.toMatchObject({ message: MIC_WORDS.insecure[0] });
    expect(ask).not.toHaveBeenCalled();
  });

  it("is not asked for where the browser cannot record", async () => {
    vi.stubGlobal("navigator", {});
    await expect(new Microphone().open()).rejects.toMatchObject({ message: MIC_WORDS.unsupported[0] });
  });

  it("is chosen, and how the beat is given, on this device", () => {
    ask.mockRejectedValue(new DOMException("no", "NotAllowedError"));
    const microphone = new Microphone();
    expect(microphone.snapshot()).toMatchObject({ isChosen: false, beatBy: "aloud" });
    microphone.choose(true);
    microphone.giveBeat("eye");
    expect(new Microphone().snapshot()).toMatchObject({ isChosen: true, beatBy: "eye" });
  });
});
