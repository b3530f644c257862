import { afterEach, describe, expect, it, vi } from 'vitest';
import { ApiError, based, changeHeaders, setCsrf, take } from './client';

afterEach(() => vi.unstubAllGlobals());

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
  it('carry the token of the session and a fresh identifier each time', () => {
    setCsrf('abc');
    const [one, two] = [changeHeaders(), changeHeaders()];
    expect(one['X-CSRF-Token']).toBe('abc');
    expect(one['Deed-Id']).not.toBe(two['Deed-Id']);
  });

  it('name the version as an entity tag', () => {
    expect(based(7)).toEqual({ 'If-Match': '"7"' });
  });
});
