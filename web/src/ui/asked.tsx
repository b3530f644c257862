import { type ReactNode } from 'react';
import { Button, Empty, Trouble } from './kit';

/** What a page knows of a question to the service. */
interface Question<T> {
  data: T | undefined;
  error: unknown;
  isPending: boolean;
  dataUpdatedAt: number;
  refetch: () => unknown;
}

/**
 * Shows the answer to a question. What was answered stays: when asking anew fails, that is a note above it and never takes its
 * place, so that nothing that is being typed below goes away with it.
 */
export function Asked<T>({ of, children }: { of: Question<T>; children: (answer: T) => ReactNode }) {
  if (of.data === undefined) {
    if (!of.error) return <Empty title="One moment…" />;
    return (
      <div className="space-y-2 p-4">
        <Trouble error={of.error} />
        <Button onClick={() => void of.refetch()}>Try again</Button>
      </div>
    );
  }
  return (
    <>
      <Stale of={of} />
      {children(of.data)}
    </>
  );
}

/** Says that what is shown could not be asked for anew, and since when it is so. */
export function Stale({ of }: { of: Pick<Question<unknown>, 'error' | 'dataUpdatedAt' | 'refetch'> }) {
  if (!of.error || !of.dataUpdatedAt) return null; // of what never came nothing is shown
  const why = of.error as { message?: string };
  return (
    <div role="status" className="flex flex-wrap items-center gap-2 border-b border-amber bg-amber-tint px-4 py-1 text-sm">
      <span aria-hidden="true">◐</span>
      <span className="min-w-56 flex-1">
        This is as of {new Date(of.dataUpdatedAt).toLocaleTimeString()}: it could not be asked for anew. {why.message}
      </span>
      <Button look="quiet" onClick={() => void of.refetch()}>
        Try again
      </Button>
    </div>
  );
}
