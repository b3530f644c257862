import { useQuery, useQueryClient } from '@tanstack/react-query';
import { api, based, take, type Schemas } from '../../api/client';
import { useAct } from '../../api/write';

export type Cabinet = Schemas['Cabinet'];
export type Drawer = Schemas['Drawer'];
export type Step = Schemas['CabinetStep'];
export type Change = Schemas['CabinetChange'];
export type Preview = Schemas['ChangePreview'];

/** The cabinet in force. It changes seldom, and an event says when. */
export function useCabinet() {
  return useQuery({ queryKey: ['cabinet'], staleTime: 60_000, queryFn: () => take(api.GET('/api/v1/cabinet')) });
}

export function useDrawerUse(key: string) {
  return useQuery({
    queryKey: ['drawer', key],
    queryFn: () => take(api.GET('/api/v1/drawers/{key}', { params: { path: { key } } })),
  });
}

export function useHistory() {
  return useQuery({
    queryKey: ['cabinet', 'history'],
    queryFn: () => take(api.GET('/api/v1/cabinet/history', { params: { query: { limit: 50 } } })),
  });
}

export function usePreview() {
  return useAct({ mutationFn: (body: Change) => take(api.POST('/api/v1/cabinet/preview', { body })) });
}

export function useTryPatterns(drawer: string) {
  return useAct({
    mutationFn: (body: Schemas['PatternTry']) =>
      take(api.POST('/api/v1/drawers/{key}/patterns', { params: { path: { key: drawer } }, body })),
  });
}

/** Makes a change that was previewed and waits for its job. */
export function useChange() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: async ({ version, body }: { version: number; body: Change }) => {
      let job = await take(api.POST('/api/v1/cabinet/changes', { params: { header: based(version) }, body }));
      while (job.state === 'waiting' || job.state === 'running') {
        await new Promise((done) => setTimeout(done, 150));
        job = await take(api.GET('/api/v1/jobs/{id}', { params: { path: { id: job.id } } }));
      }
      if (job.state !== 'done') throw new Error(job.error);
      return job.changed;
    },
    onSuccess: () => queries.invalidateQueries(),
  });
}
