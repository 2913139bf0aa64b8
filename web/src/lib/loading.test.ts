import { afterEach, expect, it, vi } from "vitest";

import { loaded } from "./loading";

afterEach(() => sessionStorage.clear());

it("reloads the page once where a part is gone, and then says so", async () => {
  const reload = vi.fn();
  const gone = () => Promise.reject(new TypeError("Failed to fetch dynamically imported module"));
  void loaded(gone(), reload);
  await vi.waitFor(() => expect(reload).toHaveBeenCalledOnce());
  await expect(loaded(gone(), reload)).rejects.toThrow("dynamically");
  expect(reload).toHaveBeenCalledOnce();
});

it("may reload again after a part was there", async () => {
  const reload = vi.fn();
  sessionStorage.setItem("laptick.reloaded", "yes");
  expect(await loaded(Promise.resolve(3), reload)).toBe(3);
  void loaded(Promise.reject(new TypeError("gone")), reload);
  await vi.waitFor(() => expect(reload).toHaveBeenCalledOnce());
});
