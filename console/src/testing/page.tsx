// What tests of pages need: a service that answers as told, and a page opened as somebody
// in particular.
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App } from "antd";
import { render } from "@testing-library/react";
import type { ReactElement } from "react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { vi } from "vitest";
import type { Tracker } from "../api/client";

export type Answer = { status?: number; body: unknown };
export type Asked = { key: string; query: string; body: unknown; match: string | null }; // match: the If-Match

// service answers requests by method and path, such as "GET /api/v1/people", and gives
// the list of what is asked. An answer that is missing is a 404 that names it.
export function service(answers: Record<string, Answer>): Asked[] {
  const asked: Asked[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const url = new URL(request.url);
    const key = `${request.method} ${url.pathname}`;
    const text = request.method === "GET" ? "" : await request.text();
    asked.push({ key, query: url.search, body: parsed(text), match: request.headers.get("If-Match") });
    const answer = answers[key] ?? { status: 404, body: { title: "Not found", detail: key, status: 404 } };
    return new Response(JSON.stringify(answer.body), {
      status: answer.status ?? 200,
      headers: { "Content-Type": "application/json" },
    });
  });
  return asked;
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}

// noStream gives a browser whose stream of events stays silent.
export const noStream = () =>
  vi.stubGlobal(
    "EventSource",
    class {
      addEventListener = () => undefined;
      close = () => undefined;
    },
  );

// tracker is one without rows, for somebody of a role.
export const tracker = (role: Tracker["role"], more: Partial<Tracker> = {}): Tracker => ({
  id: "t1",
  name: "Loans",
  zone: "UTC",
  version: 1,
  role,
  tabs: [],
  ...more,
});

// openPage shows a page at an address of the tracker t1, to somebody of a role.
export function openPage(page: ReactElement, path: string, at: string, shown: Tracker) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  client.setQueryData(["session"], {
    person: { name: "Ines Valadar", address: "ines@example.org", access: shown.role },
  });
  client.setQueryData(["trackers"], [shown]);
  const router = createMemoryRouter([{ path, element: page }], { initialEntries: [at] });
  render(
    <QueryClientProvider client={client}>
      <App>
        <RouterProvider router={router} />
      </App>
    </QueryClientProvider>,
  );
  return { client, router };
}
