import { useQuery } from '@tanstack/react-query';
import { api, based, take, type Schemas } from '../../api/client';
import { useWrite } from '../../api/write';
import { pageOfThing } from '../../ui/pages';

export type Notice = Schemas['Notice'];
export type Of = Schemas['WatchEdit']['of'];

export function useNotices(unread: boolean) {
  return useQuery({
    queryKey: ['notices', unread],
    queryFn: () => take(api.GET('/api/v1/notices', { params: { query: { unread: unread || undefined, limit: 200 } } })),
  });
}

/** How much one was told that one has not seen. */
export function useUnread(on: boolean) {
  return useQuery({ queryKey: ['unread'], enabled: on, queryFn: () => take(api.GET('/api/v1/notices/unread')) });
}

export function useSee() {
  return useWrite((body: Schemas['SeeNotices']) => take(api.POST('/api/v1/notices/seen', { body })));
}

export function useWatches() {
  return useQuery({ queryKey: ['watches'], queryFn: () => take(api.GET('/api/v1/watches')) });
}

/** Begins or ends a watch. */
export function useWatching() {
  return useWrite(({ end, ...body }: Schemas['WatchEdit'] & { end: boolean }) =>
    end ? take(api.POST('/api/v1/watches/end', { body })) : take(api.POST('/api/v1/watches', { body })),
  );
}

export function useTold() {
  return useQuery({ queryKey: ['told'], queryFn: () => take(api.GET('/api/v1/told')) });
}

export function useSetTold() {
  return useWrite((v: { version: number; body: Schemas['ToldEdit'] }) =>
    take(api.PUT('/api/v1/told', { params: { header: based(v.version) }, body: v.body })),
  );
}

export function useSendings() {
  return useQuery({ queryKey: ['sendings'], queryFn: () => take(api.GET('/api/v1/sendings', { params: { query: { limit: 50 } } })) });
}

export function useSendAgain() {
  return useWrite((id: string) => take(api.POST('/api/v1/sendings/{id}/again', { params: { path: { id } } })));
}

/** Kinds of things that people are told of. */
const told = ['part', 'model', 'bom', 'want'];

/** The page of what a notice is about; of several things there is none. */
export function pageOf(n: Pick<Notice, 'things' | 'more'>): string | undefined {
  const [one, another] = n.things;
  if (!one || another || n.more) return undefined;
  return told.includes(one.kind) ? pageOfThing(one) : undefined;
}
