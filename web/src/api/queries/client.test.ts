import { MutationObserver, QueryObserver, notifyManager } from "@tanstack/react-query";
import { expect, it, vi } from "vitest";

import { atOnce, queryClient, whenMade } from "./client";

/** What an observer of a query is told, in order with two marks of the browser's clock. */
async function told(change: () => void): Promise<string[]> {
  const heard: string[] = [];
  const watched = new QueryObserver<string>(queryClient, { queryKey: ["told"], enabled: false });
  const hear = notifyManager.batchCalls(() => heard.push(watched.getCurrentResult().data ?? "nothing")); // as React does
  const leave = watched.subscribe(hear);
  setTimeout(() => heard.push("the next turn"));
  change();
  await Promise.resolve();
  await Promise.resolve();
  heard.push("this turn ends");
  await new Promise((done) => setTimeout(done, 5));
  leave();
  queryClient.clear();
  return heard;
}

const change = () => void queryClient.setQueryData(["told"], "the change");

it("tells of a change in this turn of the clock, of others in a later one", async () => {
  expect(await told(() => atOnce(change))).toEqual(["the change", "this turn ends", "the next turn"]);
  expect(await told(change)).toEqual(["this turn ends", "the next turn", "the change"]);
});

it("tells of the next change as ever, whatever became of the one at once", async () => {
  const broken = () => {
    throw new Error("it cannot be drawn");
  };
  expect(() => atOnce(broken)).toThrow("it cannot be drawn");
  expect(await told(change)).toEqual(["this turn ends", "the next turn", "the change"]);
});

it("tells who asked that a change is made, though what hangs on it has taken them off the screen", async () => {
  let leave: () => void = () => undefined;
  const change = new MutationObserver(queryClient, {
    mutationFn: () => Promise.resolve("made"),
    onSuccess: async () => {
      await Promise.resolve();
      leave(); // the list came without the row that asked; others of what was to be fetched are still under way
      await Promise.resolve();
    },
  });
  leave = change.subscribe(() => undefined);
  const [told, lost] = [vi.fn(), vi.fn()];
  whenMade(change.mutate(undefined, { onSuccess: lost }), told);
  await vi.waitFor(() => expect(told).toHaveBeenCalledWith("made"));
  expect(lost).not.toHaveBeenCalled();
});

it("tells nothing of a change that was not made", async () => {
  const change = new MutationObserver(queryClient, { mutationFn: () => Promise.reject(new Error("refused")) });
  const told = vi.fn();
  const asked = change.mutate();
  whenMade(asked, told);
  await expect(asked).rejects.toThrow("refused");
  expect(told).not.toHaveBeenCalled();
});
