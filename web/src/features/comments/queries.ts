import { useQuery } from '@tanstack/react-query';
import { api, take, type Schemas } from '../../api/client';
import { useWrite } from '../../api/write';

export type Comment = Schemas['Comment'];

export function useComments(id: string) {
  return useQuery({
    queryKey: ['comments', id],
    queryFn: () => take(api.GET('/api/v1/things/{key}/comments', { params: { path: { key: id }, query: { limit: 200 } } })),
  });
}

export function useSayIt(id: string) {
  return useWrite((body: Schemas['NewComment']) =>
    take(api.POST('/api/v1/things/{key}/comments', { params: { path: { key: id } }, body })),
  );
}

export function useSettleComment() {
  return useWrite(({ id, settled }: { id: string; settled: boolean }) =>
    take(api.POST('/api/v1/comments/{id}/settled', { params: { path: { id } }, body: { settled } })),
  );
}

export function useHold(id: string) {
  return useWrite((body: Schemas['TakeHold']) => take(api.POST('/api/v1/things/{key}/hold', { params: { path: { key: id } }, body })));
}

export function useLetGo(id: string) {
  return useWrite(() => take(api.POST('/api/v1/things/{key}/hold/end', { params: { path: { key: id } } })));
}
