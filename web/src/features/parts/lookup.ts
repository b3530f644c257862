import { keepPreviousData, useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useMemo } from 'react';
import { useSearchParams } from 'react-router';
import { api, take, type Schemas } from '../../api/client';
import { useAct } from '../../api/write';
import { usePagesInView } from '../../ui/paging';
import type { PartRow } from './queries';

export type Facet = Schemas['LookupFacet'];

/** What the person is looking at. It lives in the address, so that a link shows a colleague the same. */
export interface Looking {
  q: string;
  /** Chosen values by column: drawer, status, standing, manufacturer, missing, or a parameter. */
  filters: Record<string, string[]>;
  sort: { key: string; down: boolean }[];
  group: string;
  columns: string[];
  /** Whether the active part is shown beside the list. */
  beside: boolean;
  /** How many are to be bought: prices are of so many. */
  pieces: number;
}

const own = ['drawer', 'status', 'standing'];

export function readAddress(params: URLSearchParams): Looking {
  const filters: Record<string, string[]> = {};
  for (const key of own) if (params.has(key)) filters[key] = params.getAll(key);
  for (const f of params.getAll('f')) {
    const at = f.indexOf(':');
    if (at > 0) (filters[f.slice(0, at)] ??= []).push(f.slice(at + 1));
  }
  const list = (key: string) => (params.get(key) ?? '').split(',').filter((x) => x !== '');
  return {
    q: params.get('q') ?? '',
    filters,
    sort: list('sort').map((s) => (s.startsWith('-') ? { key: s.slice(1), down: true } : { key: s, down: false })),
    group: params.get('group') ?? '',
    columns: list('columns'),
    beside: params.get('beside') === 'part',
    pieces: Number(params.get('pieces')) || 100,
  };
}

export function writeAddress(l: Looking): URLSearchParams {
  const out = new URLSearchParams();
  if (l.q) out.set('q', l.q);
  for (const [key, values] of Object.entries(l.filters))
    for (const v of values) {
      if (own.includes(key)) out.append(key, v);
      else out.append('f', `${key}:${v}`);
    }
  if (l.sort.length) out.set('sort', l.sort.map((s) => (s.down ? '-' : '') + s.key).join(','));
  if (l.group) out.set('group', l.group);
  if (l.beside) out.set('beside', 'part');
  if (l.pieces !== 100) out.set('pieces', String(l.pieces));
  if (l.columns.length) out.set('columns', l.columns.join(','));
  return out;
}

export function useLooking(): [Looking, (change: Partial<Looking>) => void] {
  const [params, setParams] = useSearchParams();
  const looking = useMemo(() => readAddress(params), [params]);
  const set = useCallback((change: Partial<Looking>) => setParams((was) => writeAddress({ ...readAddress(was), ...change })), [setParams]);
  return [looking, set];
}

/** The question as the API takes it. */
function question(l: Looking) {
  return {
    q: l.q,
    drawer: l.filters.drawer,
    standing: l.filters.standing,
    status: l.filters.status as ('draft' | 'released')[] | undefined,
    f: Object.entries(l.filters).flatMap(([k, vs]) => (own.includes(k) ? [] : vs.map((v) => `${k}:${v}`))),
    sort: l.sort.map((s) => (s.down ? '-' : '') + s.key).join(','),
    group: l.group || undefined,
    pieces: l.pieces,
  };
}

export const pageSize = 200;

/** The counts, facts and groups of what is looked at. */
export function useAnswer(l: Looking) {
  const asked = question(l);
  return useQuery({
    queryKey: ['parts', 'answer', asked],
    placeholderData: keepPreviousData,
    queryFn: () => take(api.GET('/api/v1/parts', { params: { query: { ...asked, facets: true, limit: 1 } } })),
  });
}

/** The rows in view: only the pages that are looked at are asked for, however long the list is. */
export function useRows(
  l: Looking,
  total: number,
): { rows: (PartRow | undefined)[]; onView: (first: number, last: number) => void; error: unknown } {
  const asked = question(l);
  const view = usePagesInView(pageSize);
  const pages = view.pages.filter((p) => p === 0 || p * pageSize < total);
  const answers = useQueries({
    queries: pages.map((p) => ({
      queryKey: ['parts', 'page', asked, p],
      placeholderData: keepPreviousData,
      queryFn: ({ signal }) =>
        take(api.GET('/api/v1/parts', { signal, params: { query: { ...asked, offset: p * pageSize, limit: pageSize } } })),
    })),
  });
  const rows: (PartRow | undefined)[] = [];
  answers.forEach((a, i) => {
    a.data?.items.forEach((row, k) => {
      const at = (pages[i] ?? 0) * pageSize + k;
      if (at < total) rows[at] = row;
    });
  });
  return { rows, onView: view.onView, error: answers.find((a) => a.error)?.error };
}

export function useViews() {
  return useQuery({ queryKey: ['views'], queryFn: () => take(api.GET('/api/v1/views')) });
}

export function useSaveView() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (body: Schemas['ViewEdit']) => take(api.POST('/api/v1/views', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['views'] }),
  });
}

export function useDropView() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (id: string) => take(api.DELETE('/api/v1/views/{id}', { params: { path: { id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['views'] }),
  });
}
