import createClient, { type Middleware } from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Problem = Schemas['Problem'];

/** What went wrong, as the service put it. */
export class ApiError extends Error {
  readonly status: number;
  readonly problem: Partial<Problem>;

  constructor(status: number, problem: Partial<Problem>) {
    super([problem.detail ?? `The service answered ${status}.`, problem.mend].filter(Boolean).join(' '));
    this.status = status;
    this.problem = problem;
  }
}

let csrf = '';

/** Remembers the token that every change made with the session cookie must carry. */
export function setCsrf(token: string | undefined) {
  csrf = token ?? '';
}

/** A random UUID (RFC 9562, version 4); browsers offer randomUUID on HTTPS and loopback only. */
function deedId(): string {
  const b = crypto.getRandomValues(new Uint8Array(16));
  b[6] = ((b[6] ?? 0) & 0x0f) | 0x40;
  b[8] = ((b[8] ?? 0) & 0x3f) | 0x80;
  const hex = Array.from(b, (x) => x.toString(16).padStart(2, '0')).join('');
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}

/** Headers of a change: its own identifier, so that a retry is done once, and the proof that it comes from this page. */
export function changeHeaders(): Record<string, string> {
  return { 'X-CSRF-Token': csrf, 'Deed-Id': deedId() };
}

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') {
      for (const [name, value] of Object.entries(changeHeaders())) {
        if (!request.headers.has(name)) request.headers.set(name, value);
      }
    }
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: '/' });
api.use(guard);

/** Gives the data of an answer or throws what the service said. */
export async function take<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got;
  try {
    got = await answer;
  } catch {
    throw new ApiError(0, { detail: 'The service does not answer.', mend: 'Check the connection; your input is still here.' });
  }
  if (got.error !== undefined || !got.response.ok) throw new ApiError(got.response.status, (got.error ?? {}) as Partial<Problem>);
  return got.data as T;
}

/** Keeps a file and returns its hash. */
export async function upload(file: File): Promise<Schemas['File']> {
  return take(
    api.POST('/api/v1/files', {
      params: { query: { name: file.name } },
      body: file as unknown as string,
      bodySerializer: (body) => body,
      headers: { 'Content-Type': 'application/octet-stream' },
    }),
  );
}

/** The If-Match header of a change that is based on a version. */
export function based(version: number) {
  return { 'If-Match': `"${version}"` };
}
