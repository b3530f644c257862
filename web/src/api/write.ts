import { useMutation, useQueryClient, type UseMutationOptions } from '@tanstack/react-query';
import { useCallback } from 'react';

interface After<Out> {
  onSuccess?: (x: Out) => unknown;
  onError?: (e: Error) => unknown;
}

/**
 * Something that is asked of the service on purpose, and not because a page is open. What is said of one call happens when that call
 * has gone well, also when the page was drawn anew or left in the meantime: a table that is keyed by the version of its thing goes
 * as soon as its own change arrives, which may be before the answer does.
 */
export function useAct<Out, In = void>(options: UseMutationOptions<Out, Error, In>) {
  const m = useMutation(options);
  const { mutateAsync } = m;
  const mutate = useCallback(
    (x: In, after?: After<Out>) => {
      mutateAsync(x).then(after?.onSuccess, after?.onError ?? (() => undefined)); // why it failed is in `error`, too
    },
    [mutateAsync],
  );
  return { ...m, mutate };
}

/** A write, after which everything on the page is asked for anew. */
export function useWrite<In = void, Out = unknown>(fn: (x: In) => Promise<Out>) {
  const queries = useQueryClient();
  return useAct({ mutationFn: fn, onSuccess: () => queries.invalidateQueries() });
}
