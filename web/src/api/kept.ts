/** Answers that were heard, so that asking anew sends only what has changed (RFC 9110, section 13.1.2). They are kept in this page's
 * memory, never on disk, and only for who is signed in. */

/** How many characters of answers are kept in all; the oldest go first. */
export const mostKept = 4_000_000;

interface Kept {
  tag: string;
  text: string;
  headers: Headers;
}

const answers = new Map<string, Kept>();
let size = 0;
let epoch = 0;

function drop(url: string) {
  size -= answers.get(url)?.text.length ?? 0;
  answers.delete(url);
}

/** Forgets all answers, as when somebody else signs in. */
export function forgetAnswers() {
  answers.clear();
  size = 0;
  epoch++;
}

/** Asks with what is known already: an answer that has not changed is given again as it was. */
export async function ask(request: Request): Promise<Response> {
  const kept = answers.get(request.url);
  const since = epoch;
  if (kept) request.headers.set('If-None-Match', kept.tag);
  const response = await fetch(request);
  if (kept && response.status === 304) {
    answers.delete(request.url); // used last, it goes last
    if (since === epoch) answers.set(request.url, kept);
    return new Response(kept.text, { status: 200, headers: kept.headers });
  }
  const tag = response.headers.get('ETag');
  if (response.status !== 200 || !tag || !response.headers.get('Content-Type')?.startsWith('application/json')) return response;
  const text = await response.text();
  if (since === epoch && text.length <= mostKept / 4) {
    drop(request.url);
    answers.set(request.url, { tag, text, headers: response.headers });
    size += text.length;
    for (const oldest of answers.keys()) {
      if (size <= mostKept) break;
      drop(oldest);
    }
  }
  return new Response(text, { status: 200, headers: response.headers });
}
