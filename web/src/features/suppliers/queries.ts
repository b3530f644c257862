import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useMemo } from 'react';
import { useSearchParams } from 'react-router';
import { api, based, take, type Schemas } from '../../api/client';
import { useAct, useWrite } from '../../api/write';

export type Answers = Schemas['SupplierAnswers'];
export type Offered = Schemas['AnswersRow'];
export type Offer = Schemas['AnswersOffer'];
export type Question = Schemas['SupplierQuestion'];
export type Connection = Schemas['Connection'];

/** The filters and the order of the answers: f=column:value, and sort=column,-column. */
function narrowed(params: URLSearchParams): Pick<Question, 'filters' | 'sort'> {
  const filters: Record<string, string[]> = {};
  for (const f of params.getAll('f')) {
    const at = f.indexOf(':');
    if (at > 0) (filters[f.slice(0, at)] ??= []).push(f.slice(at + 1));
  }
  const sort = (params.get('sort') ?? '').split(',').filter((s) => s !== '');
  return { ...(Object.keys(filters).length ? { filters } : {}), ...(sort.length ? { sort } : {}) };
}

/** What is asked lives in the address, so that a link shows a colleague the same. */
export function readQuestion(params: URLSearchParams, kept: Partial<Question>): Question {
  const number = (name: string, otherwise: number) => {
    const n = Number(params.get(name) ?? otherwise);
    return Number.isInteger(n) && n >= 0 && n <= 1_000_000_000 ? n : otherwise;
  };
  return {
    text: (params.get('q') ?? '').trim(),
    pieces: number('pieces', kept.pieces ?? 1),
    stock: number('stock', kept.stock ?? 0),
    inProduction: params.has('production') ? params.get('production') === 'yes' : (kept.inProduction ?? false),
    packing: params.get('packing') ?? kept.packing ?? '',
    ...narrowed(params),
  };
}

/** One's usual limits of a question about such a kind, where the address does not say them. */
export function useLimits(text: string, wanted: boolean) {
  return useQuery({
    queryKey: ['supplier-limits', text],
    enabled: wanted && text !== '',
    staleTime: 60_000,
    queryFn: () => take(api.GET('/api/v1/supplier-limits', { params: { query: { q: text } } })),
  });
}

function useKeepLimits() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (body: Schemas['SupplierLimitsEdit']) => take(api.POST('/api/v1/supplier-limits', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['supplier-limits'] }),
  });
}

/** What is asked, and whether it is known: the usual limits come first. */
export function useQuestion(): { asked: Question; ready: boolean; usual?: string; set: (change: Partial<Question>) => void } {
  const [params, setParams] = useSearchParams();
  const text = (params.get('q') ?? '').trim();
  const said = params.has('pieces');
  const limits = useLimits(text, !said);
  const keep = useKeepLimits();
  const { mutate } = keep;
  const asked = useMemo(() => readQuestion(params, limits.data ?? {}), [params, limits.data]);
  const set = useCallback(
    (change: Partial<Question>) => {
      const q = { ...asked, ...change };
      if (q.text && (change.pieces !== undefined || change.stock !== undefined))
        mutate({
          text: q.text,
          pieces: q.pieces ?? 1,
          stock: q.stock ?? 0,
          inProduction: q.inProduction ?? false,
          packing: q.packing ?? '',
        });
      setParams((was) => {
        const out = new URLSearchParams({
          ...(was.has('back') ? { back: was.get('back') ?? '' } : {}),
          q: q.text,
          pieces: String(q.pieces ?? 1),
          stock: String(q.stock ?? 0),
          production: q.inProduction ? 'yes' : 'any',
          packing: q.packing ?? '',
        });
        if (q.text === asked.text) {
          // Another question begins with all of its answers.
          for (const [key, values] of Object.entries(q.filters ?? {})) for (const v of values) out.append('f', `${key}:${v}`);
          if (q.sort?.length) out.set('sort', q.sort.join(','));
        }
        return out;
      });
    },
    [asked, setParams, mutate],
  );
  const usual = !said && limits.data?.kept ? limits.data.label || 'any part' : undefined;
  return { asked, ready: said || text === '' || limits.isSuccess || limits.isError, usual, set };
}

const answersKey = (q: Question) => ['supplier-answers', q];

/** What the suppliers answered until now: asked for again, with the state that was seen, until the last of them has answered. */
export function useAnswers(q: Question, ready: boolean) {
  const queries = useQueryClient();
  return useQuery<Answers>({
    queryKey: answersKey(q),
    enabled: ready && q.text !== '',
    staleTime: 60_000,
    refetchInterval: (x) => (x.state.data && !x.state.data.done ? 50 : false),
    queryFn: ({ signal }) => {
      const seen = queries.getQueryData<Answers>(answersKey(q));
      return take(
        api.POST('/api/v1/supplier-questions', { body: { ...q, limit: 300, seen: seen && !seen.done ? seen.state : 0 }, signal }),
      );
    },
  });
}

/** Asks anew, whatever was answered within the hour. */
export function useAskAgain(q: Question) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: () => take(api.POST('/api/v1/supplier-questions', { body: { ...q, limit: 300, again: true } })),
    onSuccess: (a: Answers) => queries.setQueryData(answersKey(q), a),
  });
}

export function useTake() {
  return useWrite((body: Schemas['SupplierTake']) => take(api.POST('/api/v1/supplier-products', { body })));
}

export function useIntakeOf() {
  return useWrite((body: Schemas['SupplierIntake']) => take(api.POST('/api/v1/supplier-intakes', { body })));
}

export function useOffers(key: string, pieces: number) {
  return useQuery({
    queryKey: ['offers', key, pieces],
    queryFn: () => take(api.GET('/api/v1/parts/{key}/offers', { params: { path: { key }, query: { pieces } } })),
  });
}

export function useRefresh() {
  return useWrite((body: Schemas['RefreshOffers']) => take(api.POST('/api/v1/offers/refresh', { body })));
}

export function useNews() {
  return useQuery({
    queryKey: ['offer-news'],
    queryFn: () => take(api.GET('/api/v1/offers/news', { params: { query: { limit: 500 } } })),
  });
}

export function useSettleNews() {
  return useWrite((ids: string[]) => take(api.POST('/api/v1/offers/news/settled', { body: { ids } })));
}

export function useConnections() {
  return useQuery({
    queryKey: ['connections'],
    queryFn: () => take(api.GET('/api/v1/connections', { params: { query: { limit: 200 } } })),
  });
}

export function useConnection(key: string | undefined) {
  return useQuery({
    queryKey: ['connection', key],
    enabled: key !== undefined,
    queryFn: () => take(api.GET('/api/v1/connections/{key}', { params: { path: { key: key ?? '' } } })),
  });
}

export function useApplyConnection(version: number) {
  return useWrite((text: string) => take(api.PUT('/api/v1/connections', { params: { header: based(version) }, body: { text } })));
}

export function useTryConnection() {
  return useAct({ mutationFn: (body: Schemas['ConnectionTrial']) => take(api.POST('/api/v1/connection-tries', { body })) });
}

export function useUploadList(key: string) {
  return useWrite((f: { hash: string; name: string }) =>
    take(api.POST('/api/v1/connections/{key}/price-list', { params: { path: { key } }, body: f })),
  );
}

/** How old something is, in words. */
export function age(at: string, now = Date.now()): string {
  const minutes = Math.max(0, Math.floor((now - new Date(at).getTime()) / 60_000));
  if (minutes < 1) return 'just now';
  if (minutes < 60) return `${minutes} min ago`;
  if (minutes < 48 * 60) return `${Math.floor(minutes / 60)} h ago`;
  return `${Math.floor(minutes / 60 / 24)} days ago`;
}

/** What the pieces cost of an offer, with the sum in the house's currency where it was converted. */
export function sum(o: Offer): string {
  if (!o.buy) return 'no price';
  return o.converted ? `${o.converted}` : o.buy.total;
}

/** Number of pieces that are bought where it is not just what was asked for, and why. */
export function buying(o: Offer): string {
  if (!o.buy) return '';
  const more = o.buy.over ? `${o.buy.pieces.toLocaleString('en')} bought, ${o.buy.over.toLocaleString('en')} over` : '';
  return [more, o.buy.short ? 'not all in stock' : ''].filter(Boolean).join(', ');
}

export const stockOf = (o: Offer) => (o.stock === undefined ? 'not said' : `${o.stock.toLocaleString('en')}${o.atLeast ? ' or more' : ''}`);

/** The same said of several packings is one piece of news. */
export function together(news: Schemas['OfferNews'][]) {
  const out = new Map<string, { n: Schemas['OfferNews']; ids: string[] }>();
  for (const n of news) {
    const key = [n.supplier, n.source, n.what, n.says].join('|');
    const one = out.get(key);
    if (one) one.ids.push(n.id);
    else out.set(key, { n, ids: [n.id] });
  }
  return [...out.values()];
}
