import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { vi } from "vitest";

export interface Asked {
  method: string;
  path: string;
  body: unknown;
  /** Under which name it was asked, as it was sent. */
  actor: string | null;
}

type Answers = Record<string, unknown | ((asked: Asked) => unknown)>;

function isProblem(answer: unknown): answer is { status: number; detail: string } {
  return typeof answer === "object" && answer !== null && "detail" in answer && "status" in answer;
}

/** What was sent: JSON, or (of a file) its text. */
function parsed(text: string): unknown {
  try {
    return text ? JSON.parse(text) : null;
  } catch {
    return text;
  }
}

/**
 * Stand in for the server: answers by "METHOD /path" without the query. A number as answer is a problem of that status, and so is an
 * object with status and detail.
 * Returns the list of what was asked, in order.
 */
export function serve(answers: Answers): Asked[] {
  const asked: Asked[] = [];
  vi.stubGlobal("fetch", async (input: Request | string, init?: RequestInit) => {
    const request = new Request(input instanceof Request ? input : new URL(input, location.origin), init);
    const url = new URL(request.url);
    const text = await request.text();
    const call = {
      method: request.method,
      path: url.pathname + url.search,
      body: parsed(text),
      actor: request.headers.get("X-Actor"),
    };
    asked.push(call);
    const found = answers[`${request.method} ${url.pathname}`];
    const answer = typeof found === "function" ? await (found as (asked: Asked) => unknown)(call) : found;
    if (answer === undefined || typeof answer === "number") {
      const status = typeof answer === "number" ? answer : 404;
      return Response.json({ detail: `problem ${status} of ${url.pathname}`, problems: [] }, { status });
    }
    if (isProblem(answer)) return Response.json({ ...answer, problems: [] }, { status: answer.status });
    return Response.json(answer);
  });
  return asked;
}

/** Render an element at an address of a route pattern, with a query cache of its own; `within` is a frame around it. */
export function show(
  element: ReactNode,
  { path = "/", pattern = "*", within }: { path?: string; pattern?: string; within?: ReactNode } = {},
) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const router = createMemoryRouter(
    [
      within ? { element: within, children: [{ path: pattern, element }] } : { path: pattern, element },
      { path: "*", element: <p>elsewhere</p> },
    ],
    { initialEntries: [path] },
  );
  const shown = render(
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>,
  );
  return { ...shown, router };
}
