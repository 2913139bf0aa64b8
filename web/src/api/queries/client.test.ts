import { QueryObserver, notifyManager } from "@tanstack/react-query";
import { expect, it } from "vitest";

import { atOnce, queryClient } from "./client";

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
