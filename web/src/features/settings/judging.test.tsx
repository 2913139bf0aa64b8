import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Job } from "../../api/queries/jobs";
import { draw, serve } from "../../testing/draw";
import { JudgeAll } from "./JudgeAll";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const job: Job = { id: 7, kind: "judge-all", state: "running", progress: 3, whole: 12, judged: null, error: null };
const outdated = (takes: number) => ({ "GET /api/outdated-takes": { takes, checker_version: "10" } });

describe("all takes judged anew", () => {
  it("are asked for once, and told how far it is while one looks", async () => {
    const { asked } = serve({ ...outdated(12), "GET /api/judge-all": null, "POST /api/judge-all": job });
    draw(<JudgeAll />);
    fireEvent.click(await screen.findByRole("button", { name: "Judge 12 takes anew" }));
    expect(await screen.findByText(/3 of 12 takes judged anew/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: /anew/ })).toBeNull();
    expect(asked.filter((one) => one.startsWith("POST"))).toEqual(["POST /api/judge-all"]);
  });

  it("can be stopped, also by who comes back to them", async () => {
    const stopped = { ...job, state: "stopped" };
    const { asked } = serve({ ...outdated(9), "GET /api/judge-all": job, "POST /api/jobs/7/stop": stopped });
    draw(<JudgeAll />);
    fireEvent.click(await screen.findByRole("button", { name: "Stop here" }));
    expect(await screen.findByText("Stopped; what was judged stays so.")).toBeTruthy();
    expect(await screen.findByRole("button", { name: "Judge 9 takes anew" })).toBeTruthy();
    expect(asked).toContain("POST /api/jobs/7/stop");
  });

  it("tell what changed, and how much more than is listed", async () => {
    const one = { take_id: 4, piece_id: 2, title: "Lantern Boat", created_at: "2026-11-01T10:00:00Z" };
    const changed = [{ ...one, before: "steady" as const, after: "nearly" as const }];
    const judged = { judged: 12, unread: 1, changed, more: 5 };
    serve({ ...outdated(0), "GET /api/judge-all": { ...job, state: "done", judged } });
    draw(<JudgeAll />);
    expect(await screen.findByText(/6 verdicts changed:/)).toBeTruthy();
    expect(screen.getByRole("link", { name: /Lantern Boat/ }).getAttribute("href")).toBe("/pieces/2/takes/4");
    expect(screen.getByText("And 5 more.")).toBeTruthy();
    expect(screen.getByText(/1 take could not be read/)).toBeTruthy();
  });
});
