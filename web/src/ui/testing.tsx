import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import { createMemoryRouter, RouterProvider } from 'react-router';
import { vi } from 'vitest';
import { Toasts } from './toast';
import { ForAccount } from './unsaved';

// jsdom lays nothing out, and scrolls nowhere.
Element.prototype.scrollIntoView ??= () => undefined;

export interface Sent {
  method: string;
  path: string;
  match: string | null;
  body: unknown;
}

type Answer = unknown;

/** An answer that refuses, as the service puts it. */
export class Refusal {
  readonly status: number;
  readonly problem: { type: string; detail: string };
  constructor(status: number, type: string, detail: string) {
    this.status = status;
    this.problem = { type: `/problems/${type}`, detail };
  }
}

/**
 * A service that answers what pages ask, and keeps the changes that it was sent. Answers are by path, as `/wants`; those to changes by
 * method and path, as `POST /wants`; a function is given what was sent and what the address asks, and may take its time. What nobody gave an answer to is answered 404, as the service does.
 */
export function service(may: string[], answers: Record<string, Answer>): Sent[] {
  const sent: Sent[] = [];
  vi.stubGlobal('fetch', async (r: Request) => {
    const at = new URL(r.url);
    const path = at.pathname.replace('/api/v1', '');
    let said: unknown;
    if (r.method !== 'GET') {
      const text = await r.text();
      const json = r.headers.get('Content-Type')?.includes('json');
      said = text && json ? (JSON.parse(text) as unknown) : text || undefined; // a file is sent as it is
      sent.push({ method: r.method, path, match: r.headers.get('If-Match'), body: said });
    }
    const key = r.method === 'GET' ? path : `${r.method} ${path}`;
    const answer = key === '/me' ? { id: 'a', login: 'maren', name: 'Maren', may, csrf: 'x' } : answers[key];
    const body: unknown =
      typeof answer === 'function' ? await (answer as (said: unknown, query: URLSearchParams) => unknown)(said, at.searchParams) : answer;
    if (body instanceof Refusal)
      return new Response(JSON.stringify(body.problem), { status: body.status, headers: { 'Content-Type': 'application/problem+json' } });
    return new Response(JSON.stringify(body ?? { detail: `Nothing is at ${key}.` }), {
      status: body === undefined ? 404 : 200,
      headers: { 'Content-Type': 'application/json' },
    });
  });
  return sent;
}

/** Shows a page under its path; every other path says where one went. */
export function show(node: React.ReactNode, at = '/', path = '/') {
  const router = createMemoryRouter(
    [
      { path, element: node },
      { path: '*', element: <p>elsewhere</p> },
    ],
    { initialEntries: [at] },
  );
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <ForAccount id="a">
        <Toasts>
          <RouterProvider router={router} />
        </Toasts>
      </ForAccount>
    </QueryClientProvider>,
  );
  return router;
}

/** Gives every element a height, so that tables show rows where nothing is laid out. */
export function tall() {
  for (const [side, size] of [
    ['clientHeight', 600],
    ['clientWidth', 1000],
  ] as const)
    Object.defineProperty(HTMLElement.prototype, side, { configurable: true, value: size });
}
