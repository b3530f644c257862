import createClient from 'openapi-fetch';
import { ask, forgetAnswers } from './kept';
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
  if (token !== csrf) forgetAnswers();
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

/** How long a change that was done, or may have been, is still the same intention when it is asked for again, in milliseconds. */
const sameIntention = { done: 3_000, unknown: 600_000 };

interface Intention {
  id: string;
  until: number;
}

const intentions = new Map<string, Intention>();

/**
 * The identifier of a change. A double click, or a retry after an answer was lost, is one intention: it carries the identifier
 * of the first, so that the service does it once and answers alike.
 */
export function intentionOf(method: string, address: string, based: string, body: string, now = Date.now()): Intention {
  const key = [method, address, based, body].join('\n');
  for (const [k, i] of intentions) if (i.until < now) intentions.delete(k);
  let intention = intentions.get(key);
  if (!intention) {
    intention = { id: deedId(), until: now + sameIntention.unknown };
    intentions.set(key, intention);
  }
  return intention;
}

/** Notes what became of a change: done, refused for good, or unknown. */
export function settle(intention: Intention, status: number, now = Date.now()) {
  if (status >= 200 && status < 300) intention.until = now + sameIntention.done;
  else if (status >= 400 && status < 500 && status !== 401 && status !== 408 && status !== 429) intention.until = now - 1;
}

/** Asks whoever sits there to sign in again; true once somebody did. */
let signInAgain: (() => Promise<boolean>) | undefined;

/** Says who asks for signing in again when a session has ended. */
export function onSessionEnd(ask: (() => Promise<boolean>) | undefined) {
  signInAgain = ask;
}

const quiet = ['/api/v1/me', '/api/v1/session'];

/** Sends a request. Where the session has ended, it waits for signing in again and is sent once more: nothing is lost by it. */
async function send(request: Request): Promise<Response> {
  const path = new URL(request.url).pathname;
  const safe = request.method === 'GET';
  const again = request.clone();
  let intention: Intention | undefined;
  if (!safe && !quiet.includes(path)) {
    const body = request.headers.get('Content-Type') === 'application/octet-stream' ? deedId() : await request.clone().text();
    intention = intentionOf(request.method, request.url, request.headers.get('If-Match') ?? '', body);
    request.headers.set('Deed-Id', intention.id);
  }
  if (!safe) request.headers.set('X-CSRF-Token', csrf);
  let response = safe ? await ask(request) : await fetch(request);
  if (response.status === 401 && signInAgain && !quiet.includes(path) && (await signInAgain())) {
    if (intention) again.headers.set('Deed-Id', intention.id);
    if (!safe) again.headers.set('X-CSRF-Token', csrf);
    response = await fetch(again);
  }
  if (intention) settle(intention, response.status);
  return response;
}

export const api = createClient<paths>({ baseUrl: '/', fetch: send });

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
