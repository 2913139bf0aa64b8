import { afterEach, expect, it, vi } from "vitest";

import { loaded } from "./loading";

afterEach(() => sessionStorage.clear());

const gone = () => Promise.reject(new TypeError("Failed to fetch dynamically imported module"));
const around = (...answers: boolean[]) => ({
  answers: vi.fn(async () => answers.shift() ?? true),
  reload: vi.fn(),
  wait: vi.fn(async () => undefined),
});

it("reloads the page once where a part is gone, and then says so", async () => {
  const { reload, ...others } = around();
  void loaded(gone, { reload, ...others });
  await vi.waitFor(() => expect(reload).toHaveBeenCalledOnce());
  await expect(loaded(gone, { reload, ...others })).rejects.toThrow("dynamically");
  expect(reload).toHaveBeenCalledOnce();
});

it("may reload again after a part was there", async () => {
  const browser = around();
  sessionStorage.setItem("laptick.reloaded", "yes");
  expect(await loaded(async () => 3, browser)).toBe(3);
  void loaded(gone, browser);
  await vi.waitFor(() => expect(browser.reload).toHaveBeenCalledOnce());
});

it("keeps the page while the server does not answer, and asks for the part when it is back", async () => {
  const browser = around(false, false);
  const away = new TypeError("no server");
  const load = vi.fn().mockRejectedValueOnce(away).mockRejectedValueOnce(away).mockResolvedValue("the part");
  expect(await loaded(load, browser)).toBe("the part");
  expect(browser.wait).toHaveBeenCalledTimes(2);
  expect(browser.reload).not.toHaveBeenCalled();
});

it("does not throw a page away for a server that was back just then", async () => {
  const browser = around(true);
  const load = vi.fn().mockRejectedValueOnce(new TypeError("no server")).mockResolvedValue("the part");
  expect(await loaded(load, browser)).toBe("the part");
  expect(browser.reload).not.toHaveBeenCalled();
});
