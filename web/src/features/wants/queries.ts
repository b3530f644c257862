import { useQuery } from '@tanstack/react-query';
import { api, based, take, type Schemas } from '../../api/client';
import { useWrite } from '../../api/write';

export type Want = Schemas['Want'];
export type Said = Schemas['WantEdit'];

export function useWants(state: string, mine: boolean) {
  return useQuery({
    queryKey: ['wants', state, mine],
    queryFn: () =>
      take(
        api.GET('/api/v1/wants', {
          params: { query: { state: (state || undefined) as 'waiting' | undefined, mine: mine || undefined, limit: 500 } },
        }),
      ),
  });
}

export function useWant(key: string) {
  return useQuery({ queryKey: ['want', key], queryFn: () => take(api.GET('/api/v1/wants/{key}', { params: { path: { key } } })) });
}

/** What would do, and who wants the same; nothing is kept. */
export function useLook(said: Said) {
  const asks = Boolean(said.facts ?? said.mpn ?? said.link);
  return useQuery({
    queryKey: ['want-look', said],
    enabled: asks,
    queryFn: ({ signal }) => take(api.POST('/api/v1/wants/look', { signal, body: said })),
  });
}

export function useMakeWant() {
  return useWrite((said: Said) => take(api.POST('/api/v1/wants', { body: { wants: [said] } })));
}

export function useSettle(id: string) {
  return useWrite((v: { version: number; body: Schemas['SettleWant'] }) =>
    take(api.POST('/api/v1/wants/{key}/state', { params: { path: { key: id }, header: based(v.version) }, body: v.body })),
  );
}

/** Wants of all lines of a board that the library lacks, or of the line in a row alone. */
export function useWantMissing(bom: string) {
  return useWrite((row: number | undefined) =>
    take(api.POST('/api/v1/boms/{key}/wants', { params: { path: { key: bom }, query: { row } } })),
  );
}
