import { useQuery, useQueryClient } from '@tanstack/react-query';
import { api, based, take, type Schemas } from '../../api/client';
import { useAct, useWrite } from '../../api/write';

export function useGroups() {
  return useQuery({ queryKey: ['groups'], queryFn: () => take(api.GET('/api/v1/groups')) });
}

export function useAccounts(on: boolean) {
  return useQuery({ queryKey: ['accounts'], enabled: on, queryFn: () => take(api.GET('/api/v1/accounts')) });
}

export function useSaveGroup() {
  return useWrite((v: { was?: Schemas['Group']; body: Schemas['GroupEdit'] }) =>
    v.was
      ? take(api.PUT('/api/v1/groups/{key}', { params: { path: { key: v.was.id }, header: based(v.was.version) }, body: v.body }))
      : take(api.POST('/api/v1/groups', { body: v.body })),
  );
}

export function useDropGroup() {
  return useWrite((g: Schemas['Group']) =>
    take(api.DELETE('/api/v1/groups/{key}', { params: { path: { key: g.id }, header: based(g.version) } })),
  );
}

export function useAddAccount() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (body: Schemas['NewAccount']) => take(api.POST('/api/v1/accounts', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['accounts'] }),
  });
}

export function useChangeAccount() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { id: string; body: Schemas['AccountChange'] }) =>
      take(api.PATCH('/api/v1/accounts/{id}', { params: { path: { id: v.id } }, body: v.body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['accounts'] }),
  });
}

export function useChangePassword() {
  return useAct({ mutationFn: (body: Schemas['OwnPassword']) => take(api.POST('/api/v1/me/password', { body })) });
}

export function useTokens() {
  return useQuery({ queryKey: ['tokens'], queryFn: () => take(api.GET('/api/v1/tokens')) });
}

export function useAddToken() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (body: Schemas['NewToken']) => take(api.POST('/api/v1/tokens', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['tokens'] }),
  });
}

export function useDropToken() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (id: string) => take(api.DELETE('/api/v1/tokens/{id}', { params: { path: { id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['tokens'] }),
  });
}
