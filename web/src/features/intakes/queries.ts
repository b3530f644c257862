import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, based, take, upload, type Schemas } from '../../api/client';

export type Intake = Schemas['Intake'];
export type Row = Schemas['IntakeRow'];

export function useIntakes() {
  return useQuery({ queryKey: ['intakes'], queryFn: () => take(api.GET('/api/v1/intakes', { params: { query: { limit: 200 } } })) });
}

export function useIntake(id: string) {
  return useQuery({ queryKey: ['intake', id], queryFn: () => take(api.GET('/api/v1/intakes/{id}', { params: { path: { id } } })) });
}

export function useRows(id: string, version: number | undefined, state: string, cause: string) {
  return useInfiniteQuery({
    queryKey: ['intake-rows', id, version, state, cause],
    enabled: version !== undefined,
    initialPageParam: 0,
    placeholderData: keepPreviousData,
    queryFn: ({ pageParam }) =>
      take(api.GET('/api/v1/intakes/{id}/rows', { params: { path: { id }, query: { state, cause, offset: pageParam, limit: 300 } } })),
    getNextPageParam: (last) => (last.page.offset + last.items.length < last.page.total ? last.page.offset + 300 : undefined),
  });
}

export function useSuppliers() {
  return useQuery({ queryKey: ['crosswalks'], queryFn: () => take(api.GET('/api/v1/crosswalks', { params: { query: { limit: 500 } } })) });
}

export function useDrawers() {
  return useQuery({ queryKey: ['cabinet'], staleTime: 60_000, queryFn: () => take(api.GET('/api/v1/cabinet')) });
}

export function useOpenIntake() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (v: { supplier: string; file: File }) => {
      const f = await upload(v.file);
      return take(api.POST('/api/v1/intakes', { body: { supplier: v.supplier, fileHash: f.hash, fileName: f.name } }));
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ['intakes'] }),
  });
}

export function useEditIntake(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (v: { version: number; body: Schemas['IntakeEdit'] }) =>
      take(api.POST('/api/v1/intakes/{id}/edits', { params: { path: { id }, header: based(v.version) }, body: v.body })),
    onSuccess: (i) => queries.setQueryData(['intake', id], i),
  });
}

export function useTakeIn(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (v: { version: number; digest: string; leaveBlocked: boolean }) =>
      take(
        api.POST('/api/v1/intakes/{id}/take-in', {
          params: { path: { id }, header: based(v.version) },
          body: { digest: v.digest, leaveBlocked: v.leaveBlocked },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['intake', id] }),
  });
}

const running = (state?: string) => state === 'waiting' || state === 'running';

/** A job, asked for again until it has ended. */
export function useJob(id: string | undefined) {
  const queries = useQueryClient();
  return useQuery({
    queryKey: ['job', id],
    enabled: id !== undefined,
    refetchInterval: (q) => (running(q.state.data?.state) ? 300 : false),
    queryFn: async () => {
      const job = await take(api.GET('/api/v1/jobs/{id}', { params: { path: { id: id ?? '' } } }));
      if (!running(job.state)) void queries.invalidateQueries({ queryKey: ['intake'] });
      return job;
    },
  });
}

export function useStopJob() {
  return useMutation({ mutationFn: (id: string) => take(api.POST('/api/v1/jobs/{id}/stop', { params: { path: { id } } })) });
}
