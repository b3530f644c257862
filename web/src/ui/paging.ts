import { useCallback, useEffect, useRef, useState } from 'react';
import { later } from './idle';

/** How long a view must rest before its rows are asked for, in milliseconds: who drags through a long list passes many. */
const rest = 90;

/** The pages of a long list that are in view, and the callback that a table tells its view to. The first page is always among them. */
export function usePagesInView(pageSize: number): { pages: number[]; onView: (first: number, last: number) => void } {
  const [[from, to], setPages] = useState<[number, number]>([0, 0]);
  const callOff = useRef<() => void>(undefined);
  useEffect(() => () => callOff.current?.(), []);
  const onView = useCallback(
    (first: number, last: number) => {
      const next: [number, number] = [Math.floor(first / pageSize), Math.floor(last / pageSize)];
      callOff.current?.();
      callOff.current = later(() => setPages((was) => (was[0] === next[0] && was[1] === next[1] ? was : next)), rest);
    },
    [pageSize],
  );
  return { pages: [...new Set([0, ...Array.from({ length: to - from + 1 }, (_, i) => from + i)])], onView };
}
