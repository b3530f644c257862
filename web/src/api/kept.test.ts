import { describe, expect, it, vi } from 'vitest';
import { ask, forgetAnswers, mostKept } from './kept';

const url = 'https://drawer.test/api/v1/parts';

/** A service whose answer at an address is what says gives; it honours If-None-Match and notes what it was asked. */
function service(says: (url: string) => { tag: string; body: string; kind?: string }) {
  const asked: (string | null)[] = [];
  vi.stubGlobal('fetch', async (r: Request) => {
    const has = r.headers.get('If-None-Match');
    asked.push(has);
    const { tag, body, kind } = says(r.url);
    const headers = { ETag: tag, 'Content-Type': kind ?? 'application/json' };
    return has === tag ? new Response(null, { status: 304, headers }) : new Response(body, { headers });
  });
  return asked;
}

const get = async (at = url) => (await ask(new Request(at))).text();

describe('an answer that was heard', () => {
  it('is given again while it is the same, and replaced when it is not', async () => {
    let now = { tag: '"a"', body: '{"n":1}' };
    const asked = service(() => now);
    expect([await get(), await get()]).toEqual(['{"n":1}', '{"n":1}']);
    now = { tag: '"b"', body: '{"n":2}' };
    expect([await get(), await get()]).toEqual(['{"n":2}', '{"n":2}']);
    expect(asked).toEqual([null, '"a"', '"a"', '"b"']);
    const again = await ask(new Request(url));
    expect([again.status, again.headers.get('Content-Type')]).toEqual([200, 'application/json']);
  });

  it('is not given to somebody else', async () => {
    const asked = service(() => ({ tag: '"a"', body: '{}' }));
    await get();
    forgetAnswers();
    await get();
    expect(asked).toEqual([null, null]);
  });

  it('is not kept when somebody else signed in while it was on its way', async () => {
    const asked = service(() => {
      if (asked.length === 1) forgetAnswers();
      return { tag: '"a"', body: '{}' };
    });
    await get();
    await get();
    expect(asked).toEqual([null, null]);
  });

  it('is of its address only, and no file or refusal is kept', async () => {
    const asked = service((at) => ({ tag: '"a"', body: 'x', kind: at.endsWith('csv') ? 'text/csv' : 'application/json' }));
    await get(url + '?q=1');
    await get(url + '?q=2');
    await get(url + '.csv');
    await get(url + '.csv');
    expect(asked).toEqual([null, null, null, null]);
  });

  it('makes room for newer ones, the longest unused first', async () => {
    const long = 'x'.repeat(mostKept / 5);
    const asked = service(() => ({ tag: '"a"', body: long }));
    for (const n of [1, 2, 3, 4, 5]) await get(`${url}?q=${n}`);
    await get(`${url}?q=1`); // used again
    await get(`${url}?q=6`); // 2 goes
    asked.length = 0;
    for (const n of [1, 3, 6, 2]) await get(`${url}?q=${n}`);
    expect(asked).toEqual(['"a"', '"a"', '"a"', null]);
  });
});
