import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, based, take, type Schemas } from '../../api/client';

export function useGroups() {
  return useQuery({ queryKey: ['groups'], queryFn: () => take(api.GET('/api/v1/groups')) });
}

export function useAccounts(on: boolean) {
  return useQuery({ queryKey: ['accounts'], enabled: on, queryFn: () => take(api.GET('/api/v1/accounts')) });
}

export function useSaveGroup() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (v: { was?: Schemas['Group']; body: Schemas['GroupEdit'] }) =>
      v.was
        ? take(api.PUT('/api/v1/groups/{key}', { params: { path: { key: v.was.id }, header: based(v.was.version) }, body: v.body }))
        : take(api.POST('/api/v1/groups', { body: v.body })),
    onSuccess: () => queries.invalidateQueries(),
  });
}

export function useDropGroup() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (g: Schemas['Group']) =>
      take(api.DELETE('/api/v1/groups/{key}', { params: { path: { key: g.id }, header: based(g.version) } })),
    onSuccess: () => queries.invalidateQueries(),
  });
}

export function useAddAccount() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas['NewAccount']) => take(api.POST('/api/v1/accounts', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['accounts'] }),
  });
}

export function useChangeAccount() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (v: { id: string; body: Schemas['AccountChange'] }) =>
      take(api.PATCH('/api/v1/accounts/{id}', { params: { path: { id: v.id } }, body: v.body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['accounts'] }),
  });
}
