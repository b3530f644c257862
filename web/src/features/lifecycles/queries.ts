import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import { api, based, take, type Schemas } from '../../api/client';
import { useAct, useWrite } from '../../api/write';
import { useCabinet } from '../cabinet/queries';

export type Life = Schemas['Life'];
export type LifeMove = Schemas['LifeMove'];
export type Review = Schemas['Review'];
export type Lifecycle = Schemas['Lifecycle'];
export type Document = Schemas['LifecycleDocument'];

/** Where a part or model is, and what leads away from there; with its trail, so that a page asks once for both. */
export function useLife(id: string) {
  return useQuery({
    queryKey: ['life', id],
    queryFn: () => take(api.GET('/api/v1/things/{key}/life', { params: { path: { key: id }, query: { trail: 100 } } })),
  });
}

export function useReview(id: string) {
  return useQuery({
    queryKey: ['review', id],
    queryFn: () => take(api.GET('/api/v1/things/{key}/review', { params: { path: { key: id } } })),
  });
}

export function useQueue(mine: boolean) {
  return useQuery({
    queryKey: ['queue', mine],
    queryFn: () => take(api.GET('/api/v1/queue', { params: { query: { mine, limit: 500 } } })),
  });
}

export function useLifecycles() {
  return useQuery({ queryKey: ['lifecycles'], queryFn: () => take(api.GET('/api/v1/lifecycles')) });
}

export function useWaivers() {
  return useQuery({ queryKey: ['waivers'], queryFn: () => take(api.GET('/api/v1/waivers', { params: { query: { limit: 200 } } })) });
}

export function useMove() {
  return useWrite((body: Schemas['MoveThings']) => take(api.POST('/api/v1/moves', { body })));
}

export function usePreviewMoves() {
  return useAct({ mutationFn: (body: Schemas['MoveThings']) => take(api.POST('/api/v1/moves/preview', { body })) });
}

export function useWaive(id: string) {
  return useWrite((v: { version: number; body: Schemas['WaiveGate'] }) =>
    take(api.POST('/api/v1/things/{key}/waiver', { params: { path: { key: id }, header: based(v.version) }, body: v.body })),
  );
}

export function useProve(id: string) {
  return useWrite((v: { version: number; body: Schemas['Prove'] }) =>
    take(api.POST('/api/v1/things/{key}/proof', { params: { path: { key: id }, header: based(v.version) }, body: v.body })),
  );
}

/** Ticks items; the list that comes back takes the place of the one that is shown, so that the next tick names its version. */
export function useTick(id: string) {
  const queries = useQueryClient();
  return useWrite(async (v: { version: number; body: Schemas['TickItems'] }) => {
    const now = await take(
      api.POST('/api/v1/things/{key}/review/ticks', { params: { path: { key: id }, header: based(v.version) }, body: v.body }),
    );
    queries.setQueryData(['review', id], now);
    return now;
  });
}

export function useSign(id: string) {
  return useWrite((v: { version: number; body: Schemas['SignReview'] }) =>
    take(api.POST('/api/v1/things/{key}/review/signature', { params: { path: { key: id }, header: based(v.version) }, body: v.body })),
  );
}

/** The lists of all that waits for me and shares a datasheet with a part, side by side. */
export function useTogether(id: string) {
  return useQuery({
    queryKey: ['together', id],
    queryFn: () => take(api.GET('/api/v1/things/{key}/review/together', { params: { path: { key: id }, query: {} } })),
  });
}

export function useTickMany() {
  return useWrite((body: Schemas['TickMany']) => take(api.POST('/api/v1/reviews/ticks', { body })));
}

export function useSignMany() {
  return useWrite((body: Schemas['SignMany']) => take(api.POST('/api/v1/reviews/signatures', { body })));
}

export function useTurn(id: string) {
  return useWrite((v: { version: number; letGo: boolean }) =>
    take(
      api.POST('/api/v1/things/{key}/review/turn', {
        params: { path: { key: id }, header: based(v.version) },
        body: { letGo: v.letGo },
      }),
    ),
  );
}

export function usePreview() {
  return useAct({ mutationFn: (text: string) => take(api.POST('/api/v1/lifecycles/preview', { body: { text } })) });
}

export function useApply() {
  return useWrite((v: { version: number; text: string }) =>
    take(api.POST('/api/v1/lifecycles', { params: { header: based(v.version) }, body: { text: v.text } })),
  );
}

/** What of a move's gates does not hold and is not waived. */
export const closed = (m: LifeMove) => m.gates.filter((g) => !g.holds && !g.waived);

/** Says what a state of a part is called and drawn as, by the lifecycle of its drawer. */
export function useStates() {
  const all = useLifecycles();
  const cabinet = useCabinet();
  return useMemo(() => {
    const byDrawer = new Map((cabinet.data?.drawers ?? []).map((d) => [d.key, d.lifecycle ?? 'parts']));
    const byName = new Map(
      (all.data?.items ?? []).map((l) => [l.name, new Map([...l.document.status, ...l.document.standing].map((s) => [s.key, s]))]),
    );
    return (drawer: string, key: string) => byName.get(byDrawer.get(drawer) ?? 'parts')?.get(key);
  }, [all.data, cabinet.data]);
}

/** Who else holds a thing, so that it cannot be changed now. */
export function useHeldBy(id: string): string | undefined {
  const hold = useLife(id).data?.hold;
  return hold && !hold.mine ? hold.by : undefined;
}
