import { useMutation, useQueryClient } from '@tanstack/react-query';

/** A write, after which everything on the page is asked for anew. */
export function useWrite<In, Out>(fn: (x: In) => Promise<Out>) {
  const queries = useQueryClient();
  return useMutation({ mutationFn: fn, onSuccess: () => queries.invalidateQueries() });
}
