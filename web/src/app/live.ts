import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';

/** One deed, as the service tells of it. */
export interface Deed {
  position: number;
  kind: string;
  kinds: string[];
  heads: { kind: string; id: string; number: string }[];
  many: boolean;
}

/** Questions about one thing, by its kind: they name it in the second place of their key, or their answer by its id. */
const about: Record<string, string[]> = {
  part: ['part', 'copy', 'diff', 'pins', 'life', 'review'],
  model: ['model', 'life', 'review'],
  intake: ['intake', 'intake-rows', 'intake-row', 'intake-rule'],
  bom: ['bom'],
  delivery: ['delivery'],
  want: ['want'],
  series: ['series'],
};

/** Questions that anything of a kind may answer otherwise. */
const among: Record<string, string[]> = {
  part: ['parts', 'alike', 'comparison', 'drawer', 'bom', 'intake', 'queue', 'waivers', 'worklist', 'where-used', 'replacement'],
  model: ['models', 'model-causes', 'twins', 'pins', 'part', 'delivery', 'queue', 'waivers', 'life', 'worklist'],
  want: ['wants', 'want-look', 'worklist'],
  series: ['series-list', 'series-proposals', 'part', 'parts', 'review', 'life'],
  lifecycle: ['lifecycles', 'lifecycle', 'life', 'part', 'parts', 'model', 'models', 'queue', 'waivers', 'bom'],
  intake: ['intakes', 'records', 'worklist'],
  bom: ['boms', 'worklist', 'where-used', 'replacement'],
  readings: ['readings', 'bom'],
  layout: ['bom'],
  endings: ['bom'],
  delivery: ['deliveries'],
  crosswalk: ['crosswalks', 'crosswalk', 'intake', 'drawer'],
  notice: ['notices', 'unread', 'sendings', 'worklist'],
  cabinet: ['readout', 'cabinet', 'drawer', 'part', 'parts', 'intake', 'bom', 'model', 'model-causes'],
};

/** Which questions on a page a deed may have answered otherwise; answer is what the page has. */
export function concerns(d: Deed, key: readonly unknown[], answer?: unknown): boolean {
  const [what, which] = key;
  if (what === 'me') return false;
  if (d.kind === 'missed' || typeof what !== 'string') return true;
  if (d.kind === 'comment' || what === 'comments') {
    // What is said stands beside the thing: its trail grows, and nothing else of it is another.
    if (d.kind !== 'comment' || !['comments', 'life', 'worklist'].includes(what)) return false;
    return what === 'worklist' || d.heads.some((h) => h.id === which);
  }
  const is = answer as { id?: string; lines?: { board?: { id: string } }[] } | undefined;
  // A board that takes others shows their revisions.
  const ids = [is?.id, ...(what === 'bom' && Array.isArray(is?.lines) ? is.lines.map((l) => l.board?.id) : [])];
  for (const kind of d.kinds) {
    if (among[kind]?.includes(what)) return true;
    if (!about[kind]?.includes(what)) continue;
    if (d.many || typeof which !== 'string') return true;
    const name = which.toLowerCase();
    if (d.heads.some((h) => h.kind === kind && (h.id === which || ids.includes(h.id) || h.number.toLowerCase() === name))) return true;
  }
  return false;
}

/**
 * Asks anew for what a deed may have changed, where it is on the page; the rest is asked for when it is shown again. What hangs on a board, as its
 * cost does, is otherwise with it, also by way of the boards that it takes, which only its lines name.
 */
export function hear(queries: QueryClient, d: Deed) {
  const boards = new Set(
    queries
      .getQueryCache()
      .findAll({ queryKey: ['bom'] })
      .filter((q) => concerns(d, q.queryKey, q.state.data))
      .map((q) => q.queryKey[1]),
  );
  void queries.invalidateQueries({
    predicate: (q) => concerns(d, q.queryKey, q.state.data) || (q.queryKey[0] === 'bom' && boards.has(q.queryKey[1])),
  });
}

/**
 * Hears of every deed and asks anew for what is on the page. A browser opens few connections to one address, so one
 * page holds the stream and tells the others; when it closes, the next one takes over.
 */
export function useLive(on: boolean) {
  const queries = useQueryClient();
  useEffect(() => {
    if (!on) return;
    const channel = new BroadcastChannel('jolly-deeds');
    const end = new AbortController();
    let stream: EventSource | undefined;
    channel.onmessage = (e: MessageEvent<Deed>) => hear(queries, e.data);
    const hold = () => {
      stream = new EventSource('/api/v1/events');
      stream.addEventListener('deed', (e: MessageEvent<string>) => {
        const deed = JSON.parse(e.data) as Deed;
        hear(queries, deed);
        channel.postMessage(deed);
      });
      return new Promise<void>((done) => end.signal.addEventListener('abort', () => done()));
    };
    // Locks are there on HTTPS and on loopback only; elsewhere every page holds a stream of its own.
    if ('locks' in navigator) void navigator.locks.request('jolly-stream', { signal: end.signal }, hold).catch(() => undefined);
    else void hold();
    return () => {
      end.abort();
      stream?.close();
      channel.close();
    };
  }, [on, queries]);
}
