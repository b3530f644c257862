import { useSearchParams } from 'react-router';

/** How a button looks that filters a list while it is pressed. */
export const pill = 'rounded border border-line bg-sheet px-2 py-0.5 aria-pressed:border-b-2 aria-pressed:border-b-amber';

/** A filter that stands in the address: what it is, blank where there is none, and a way to set it or to take it away. */
export function useFilter(name: string): [value: string, set: (value: string) => void] {
  const [params, setParams] = useSearchParams();
  const set = (value: string) =>
    setParams((p) => {
      if (value) p.set(name, value);
      else p.delete(name);
      return p;
    });
  return [params.get(name) ?? '', set];
}
