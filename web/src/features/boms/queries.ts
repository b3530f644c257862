import { useQuery, useQueryClient } from '@tanstack/react-query';
import { api, based, take, upload, type Schemas } from '../../api/client';
import { useAct } from '../../api/write';

export type BOM = Schemas['BOM'];
export type Line = Schemas['BOMLine'];
export type ColumnRole = Schemas['BOMColumn'];

export function useBoms() {
  return useQuery({ queryKey: ['boms'], queryFn: () => take(api.GET('/api/v1/boms', { params: { query: { limit: 200 } } })) });
}

export function useBom(key: string) {
  return useQuery({ queryKey: ['bom', key], queryFn: () => take(api.GET('/api/v1/boms/{key}', { params: { path: { key } } })) });
}

export function useBringBom() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: async (v: { name: string; file: File }) => {
      const f = await upload(v.file);
      return take(api.POST('/api/v1/boms', { body: { name: v.name, fileHash: f.hash, fileName: f.name } }));
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ['boms'] }),
  });
}

export function useChoose(key: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { id: string; version: number; body: Schemas['BOMChoices'] }) =>
      take(api.POST('/api/v1/boms/{key}/choices', { params: { path: { key: v.id }, header: based(v.version) }, body: v.body })),
    onSuccess: (b) => queries.setQueryData(['bom', key], b),
    onError: () => queries.invalidateQueries({ queryKey: ['bom', key] }),
  });
}

export function useSayBuild(key: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { id: string; version: number; boards: number }) =>
      take(api.POST('/api/v1/boms/{key}/build', { params: { path: { key: v.id }, header: based(v.version) }, body: { boards: v.boards } })),
    onSuccess: (b) => queries.setQueryData(['bom', key], b),
    onError: () => queries.invalidateQueries({ queryKey: ['bom', key] }),
  });
}

/** Asks all suppliers for what they offer of the parts of a BOM. */
export function useRefreshOffers() {
  return useAct({ mutationFn: (bom: string) => take(api.POST('/api/v1/offers/refresh', { body: { bom } })) });
}

export function useSayColumns(key: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { id: string; columns: ColumnRole[] }) =>
      take(api.POST('/api/v1/boms/{key}/columns', { params: { path: { key: v.id } }, body: { columns: v.columns } })),
    onSuccess: (b) => queries.setQueryData(['bom', key], b),
  });
}

export function useSayEnding() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (e: { maker: string; letters: string }) =>
      take(api.POST('/api/v1/mpn-endings', { body: { maker: e.maker, ending: e.letters } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['bom'] }),
  });
}
