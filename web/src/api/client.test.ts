import { afterEach, describe, expect, it, vi } from 'vitest';
import { api, ApiError, based, intentionOf, onSessionEnd, setCsrf, settle, take } from './client';

afterEach(() => onSessionEnd(undefined));

describe('take', () => {
  it('gives the data of an answer', async () => {
    await expect(take(Promise.resolve({ data: 5, response: new Response() }))).resolves.toBe(5);
  });

  it('throws the sentence of the service and what would mend it', async () => {
    const answer = take(
      Promise.resolve({
        error: { detail: 'The number is taken.', mend: 'Choose another.' },
        response: new Response(null, { status: 409 }),
      }),
    );
    await expect(answer).rejects.toThrowError('The number is taken. Choose another.');
    await expect(answer).rejects.toMatchObject({ status: 409 });
  });

  it('says that the service does not answer when the connection is lost', async () => {
    const lost = take(Promise.reject(new TypeError('fetch failed')));
    await expect(lost).rejects.toBeInstanceOf(ApiError);
    await expect(lost).rejects.toThrowError('does not answer');
  });
});

describe('headers of a change', () => {
  it('name the version as an entity tag', () => {
    expect(based(7)).toEqual({ 'If-Match': '"7"' });
  });
});

describe('an intention', () => {
  const of = (body: string, now: number) => intentionOf('POST', '/api/v1/x', '', body, now);

  it('is the same for a double click and for a retry after a lost answer', () => {
    const first = of('{"a":1}', 0);
    expect(of('{"a":1}', 5).id).toBe(first.id);
    settle(first, 503, 10);
    expect(of('{"a":1}', 60_000).id).toBe(first.id);
    settle(first, 200, 60_010);
    expect(of('{"a":1}', 60_500).id).toBe(first.id);
  });

  it('is another one for other words, another version, later on, and after a refusal', () => {
    const first = of('{"b":1}', 0);
    expect(of('{"b":2}', 0).id).not.toBe(first.id);
    expect(intentionOf('POST', '/api/v1/x', '"2"', '{"b":1}', 0).id).not.toBe(first.id);
    settle(first, 200, 0);
    expect(of('{"b":1}', 10_000).id).not.toBe(first.id);
    const refused = of('{"b":1}', 20_000);
    settle(refused, 422, 20_001);
    expect(of('{"b":1}', 20_010).id).not.toBe(refused.id);
  });
});

/** Answers requests one after the other and keeps what was asked. */
function answering(...statuses: number[]) {
  const asked: Request[] = [];
  vi.stubGlobal('fetch', async (r: Request) => {
    asked.push(r);
    return new Response(JSON.stringify({ id: 'x' }), { status: statuses.shift() ?? 200, headers: { 'Content-Type': 'application/json' } });
  });
  return asked;
}

describe('a session that has ended', () => {
  const make = () => take(api.POST('/api/v1/parts', { baseUrl: 'http://localhost', body: { drawer: 'd', values: {} } }));

  it('is signed in to again, and what was asked goes on as the same deed with the new token', async () => {
    const asked = answering(401, 200);
    setCsrf('old');
    onSessionEnd(async () => {
      setCsrf('new');
      return true;
    });
    await expect(make()).resolves.toEqual({ id: 'x' });
    expect(asked).toHaveLength(2);
    expect(asked[1]?.headers.get('Deed-Id')).toBe(asked[0]?.headers.get('Deed-Id'));
    expect(asked.map((r) => r.headers.get('X-CSRF-Token'))).toEqual(['old', 'new']);
    expect(await asked[1]?.text()).toContain('"drawer":"d"');
  });

  it('is told where nobody signs in', async () => {
    answering(401);
    onSessionEnd(async () => false);
    await expect(make()).rejects.toMatchObject({ status: 401 });
  });
});
