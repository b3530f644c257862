import { useQuery } from '@tanstack/react-query';
import { api, based, take, type Schemas } from '../../api/client';
import { useWrite } from '../../api/write';

export type Series = Schemas['Series'];
export type Said = Schemas['SeriesEdit'];
export type Proposal = Schemas['SeriesProposal'];

export function useSeriesList() {
  return useQuery({ queryKey: ['series-list'], queryFn: () => take(api.GET('/api/v1/series', { params: { query: { limit: 500 } } })) });
}

export function useProposals() {
  return useQuery({
    queryKey: ['series-proposals'],
    queryFn: () => take(api.GET('/api/v1/series/proposals', { params: { query: { limit: 200 } } })),
  });
}

export function useSeries(key: string) {
  return useQuery({ queryKey: ['series', key], queryFn: () => take(api.GET('/api/v1/series/{key}', { params: { path: { key } } })) });
}

/** Makes what is proposed, or adds its members to the series that is there. */
export function useAccept() {
  return useWrite(async ({ into, manufacturer, name, members, datasheets }: Proposal) => {
    const said = { manufacturer, name, members, datasheets };
    if (!into) return take(api.POST('/api/v1/series', { body: said }));
    const s = await take(api.GET('/api/v1/series/{key}', { params: { path: { key: into } } }));
    return change(s, { ...s.said, members: [...(s.said.members ?? []), ...(said.members ?? [])] });
  });
}

export function useMakeSeries() {
  return useWrite((said: Said) => take(api.POST('/api/v1/series', { body: said })));
}

const change = (s: Series, said: Said) =>
  take(api.PUT('/api/v1/series/{key}', { params: { path: { key: s.id }, header: based(s.version) }, body: said }));

export function useChangeSeries(s: Series) {
  return useWrite((said: Said) => change(s, said));
}
