import { useQuery, useQueryClient } from '@tanstack/react-query';
import { api, take } from './client';

const running = (state?: string) => state === 'waiting' || state === 'running';

/** A job, asked for again until it has ended: then everything on the page is. */
export function useJob(id: string | undefined) {
  const queries = useQueryClient();
  return useQuery({
    queryKey: ['job', id],
    enabled: id !== undefined,
    refetchInterval: (q) => (running(q.state.data?.state) ? 300 : false),
    queryFn: async () => {
      const job = await take(api.GET('/api/v1/jobs/{id}', { params: { path: { id: id ?? '' } } }));
      if (!running(job.state)) void queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'job' });
      return job;
    },
  });
}
