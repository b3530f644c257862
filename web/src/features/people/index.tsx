import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useForm } from 'react-hook-form';
import { api, ApiError, setCsrf, take, type Schemas } from '../../api/client';
import { useAct } from '../../api/write';
import { Button, Field, Trouble } from '../../ui/kit';

/** Who is signed in; null for nobody. */
export function useMe() {
  return useQuery({
    queryKey: ['me'],
    staleTime: 60_000,
    queryFn: async () => {
      try {
        const me = await take(api.GET('/api/v1/me'));
        setCsrf(me.csrf);
        return me;
      } catch (e) {
        if (e instanceof ApiError && e.status === 401) return null;
        throw e;
      }
    },
  });
}

/** Says whether the role of who is signed in allows an operation. */
export function useMay() {
  const me = useMe();
  return (op: string) => me.data?.may.includes(op) ?? false;
}

export function useSignOut() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: () => take(api.DELETE('/api/v1/session')),
    onSuccess: () => {
      setCsrf(undefined);
      queries.clear();
      queries.setQueryData(['me'], null);
    },
  });
}

/** Name and password; with a login, it is that person's. */
export function SignInForm({ login, onDone }: { login?: string; onDone?: () => void }) {
  const queries = useQueryClient();
  const form = useForm<Schemas['SignIn']>({ defaultValues: { login: login ?? '', password: '' } });
  const signIn = useAct({
    mutationFn: (body: Schemas['SignIn']) => take(api.POST('/api/v1/session', { body })),
    onSuccess: (me) => {
      setCsrf(me.csrf);
      queries.setQueryData(['me'], me);
      onDone?.();
    },
  });
  return (
    <form onSubmit={form.handleSubmit((v) => signIn.mutate(v))} className="space-y-3">
      <Field label="Name" autoComplete="username" required readOnly={login !== undefined} {...form.register('login')} />
      <Field
        label="Password"
        type="password"
        autoComplete="current-password"
        required
        data-first={login !== undefined ? '' : undefined}
        {...form.register('password')}
      />
      <Trouble error={signIn.error} />
      <Button look="act" type="submit" disabled={signIn.isPending} className="w-full justify-center">
        Sign in
      </Button>
    </form>
  );
}

export function SignIn() {
  return (
    <main className="grid min-h-dvh place-items-center bg-ground p-4">
      <div className="label-holder w-full max-w-sm space-y-3 bg-sheet p-6">
        <div className="flex items-center gap-3">
          <img src="/mark.svg" alt="" className="size-10" />
          <div>
            <h1 className="text-xl font-semibold">Jolly Drawer</h1>
            <p className="text-sm text-soft">The parts library of your house</p>
          </div>
        </div>
        <SignInForm />
      </div>
    </main>
  );
}

export { useGroups } from './queries';
