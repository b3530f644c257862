import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useRef, useState } from 'react';
import { api, take, type Schemas } from '../../../api/client';

export type Change = Schemas['RedrawChange'];
export type List = Schemas['RedrawList'];
export type Tried = Schemas['DrawingTried'];
export type Of = 'pins' | 'pads' | 'graphics';

/** A drawing as it is kept: of a symbol, or of a land pattern. */
export interface Drawing {
  symbol?: Schemas['ModelSymbol'];
  landPattern?: Schemas['ModelLandPattern'];
}

/** The rows that somebody goes on with. */
export interface Chosen {
  of: Of;
  rows: number[];
}

/** What a drawing is looked at with. */
export interface Beside {
  kind: 'symbol' | 'land pattern';
  name: string;
  model?: string;
  part?: string;
  unit?: number;
}

interface At {
  n: number; // names the drawing: the same number is the same drawing
  drawing: Drawing;
  chosen: Chosen;
}

/** How far somebody can go back. */
const mostSteps = 300;

/** Two moves of the same rows, one after the other, are one. */
function joined(all: Change[], next: Change): Change[] {
  const last = all.at(-1);
  if (last?.do !== 'move' || next.do !== 'move' || last.of !== next.of || String(last.rows) !== String(next.rows)) return [...all, next];
  const sum = (a?: string, b?: string) => String(Math.round((Number(a ?? 0) + Number(b ?? 0)) * 1e7) / 1e7);
  return [...all.slice(0, -1), { ...next, by: { x: sum(last.by?.x, next.by?.x), y: sum(last.by?.y, next.by?.y) } }];
}

/**
 * A drawing, step by step: each change is made by the service, which answers with the drawing as it becomes, its table and its picture.
 * Whoever types quickly is ahead of it: what waits meanwhile goes together. Going back and forth asks for nothing that was seen already.
 */
export function useSteps(start: Drawing, first: Of, beside: Beside) {
  const queries = useQueryClient();
  const night = document.documentElement.dataset.theme === 'dark';
  const [now, setNow] = useState<At>({ n: 0, drawing: start, chosen: { of: first, rows: [] } });
  const [past, setPast] = useState<At[]>([]);
  const [future, setFuture] = useState<At[]>([]);
  const [error, setError] = useState<unknown>();
  const count = useRef(0);
  const live = useRef(now);
  const waiting = useRef<Change[]>([]);
  const busy = useRef(false);
  const [session] = useState(() => Math.random()); // two editors never share a step

  const body = useCallback(
    (drawing: Drawing, changes: Change[]) => ({ ...beside, ...drawing, changes, theme: night ? ('night' as const) : ('day' as const) }),
    [beside, night],
  );
  const key = useCallback((n: number) => ['drawing-step', session, n, beside, night], [session, beside, night]);
  const ask = useCallback(
    (drawing: Drawing, changes: Change[]) => take(api.POST('/api/v1/drawing-tries', { body: body(drawing, changes) })),
    [body],
  );
  const shown = useQuery({
    queryKey: key(now.n),
    queryFn: () => ask(now.drawing, []),
    placeholderData: (before) => before,
    staleTime: Infinity,
    retry: false,
  });

  const show = useCallback((at: At) => {
    live.current = at;
    setNow(at);
  }, []);
  const run = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    try {
      while (waiting.current.length > 0) {
        const changes = waiting.current.splice(0);
        const was = live.current;
        const n = ++count.current;
        const t = await queries.fetchQuery({
          queryKey: key(n),
          queryFn: () => ask(was.drawing, changes),
          staleTime: Infinity,
          retry: false,
        });
        const of = changes.at(-1)?.of;
        const next: At = {
          n,
          drawing: { symbol: t.symbol, landPattern: t.landPattern },
          chosen: of ? { of: of as Of, rows: t.selected } : was.chosen,
        };
        setPast((p) => [...p, was].slice(-mostSteps));
        setFuture([]);
        setError(undefined);
        show(next);
      }
    } catch (e) {
      waiting.current = [];
      setError(e);
    } finally {
      busy.current = false;
    }
  }, [ask, key, queries, show]);
  const change = useCallback(
    (c: Change) => {
      waiting.current = joined(waiting.current, c);
      void run();
    },
    [run],
  );
  const choose = useCallback((chosen: Chosen) => show({ ...live.current, chosen }), [show]);
  const undo = () => {
    const to = past.at(-1);
    if (!to || busy.current) return;
    setPast(past.slice(0, -1));
    setFuture([now, ...future]);
    setError(undefined);
    show(to);
  };
  const redo = () => {
    const to = future[0];
    if (!to || busy.current) return;
    setFuture(future.slice(1));
    setPast([...past, now]);
    setError(undefined);
    show(to);
  };
  /** Puts another drawing in place of this one, as a step. */
  const replace = (drawing: Drawing) => {
    setPast([...past, now].slice(-mostSteps));
    setFuture([]);
    show({ n: ++count.current, drawing, chosen: { of: first, rows: [] } });
  };
  return {
    shown: shown.data,
    error: error ?? shown.error,
    drawing: now.drawing,
    step: now.n,
    chosen: now.chosen,
    choose,
    change,
    undo: past.length > 0 ? undo : undefined,
    redo: future.length > 0 ? redo : undefined,
    replace,
    ask,
  };
}

export type Steps = ReturnType<typeof useSteps>;

/** A length typed or shown in millimetres as a number; for counting steps on the board only. */
export const mm = (text: string) => Number(text) || 0;

/** A number of millimetres as text, to the tenth of a nanometre. */
export const text = (n: number) => String(Math.round(n * 1e7) / 1e7);
