/** Draws a part of the interface for a test: with routes, a query cache and the tables of the trade, and no server. What
 * is asked of the server is answered by a table of addresses; any other request fails the test. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { configure, render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, Route, Routes } from "react-router";
import { vi } from "vitest";

import { setTrade } from "../api/trade";
import { ToastShelf } from "../ui/kit";
import { tables } from "./fixtures";

/** What is drawn has no size here. */
class NoSize implements ResizeObserver {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
globalThis.ResizeObserver ??= NoSize;
// Nor can it be scrolled.
Element.prototype.scrollIntoView ??= () => undefined;

setTrade(tables);
// What is waited for comes at once, but for what is loaded only when it is wanted, on a machine that is busy.
configure({ asyncUtilTimeout: 10_000 });

type Answers = Record<string, unknown>;

/** What the server refuses, in the one shape that all its errors have. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly error: { code: string; what: string; where?: string; kept?: string; todo?: string },
  ) {}
}

/** ``"GET /api/takes/3"`` → what the server answers, or a refusal. */
export function serve(answers: Answers): { asked: string[] } {
  const asked: string[] = [];
  const answer = async (input: RequestInfo | URL, init?: RequestInit) => {
    const request = input instanceof Request ? input : new Request(input, init);
    const name = `${request.method} ${new URL(request.url).pathname}`;
    const body = request.method === "GET" ? "" : await request.clone().text();
    asked.push(body ? `${name} ${body}` : name);
    if (!(name in answers)) throw new Error(`the test has no answer for ${name}`);
    const found = answers[name];
    return found instanceof Refusal
      ? Response.json({ error: found.error }, { status: found.status })
      : Response.json(found);
  };
  vi.stubGlobal("fetch", vi.fn(answer));
  return { asked };
}

export function draw(children: ReactNode, { path = "*", at = "/" } = {}) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false }, mutations: { retry: false } } });
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter initialEntries={[at]}>
        <ToastShelf>
          <Routes>
            <Route path={path} element={children} />
          </Routes>
        </ToastShelf>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}
