import { useState } from 'react';
import { Asked } from '../../ui/asked';
import { Button, Field, PageHead, Panel, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { ToldPanel } from '../notices';
import { useMe } from '.';
import { useAddToken, useChangePassword, useDropToken, useTokens } from './queries';

/** One's own account: the password, and the tokens that programs sign in with. */
export function YouPage() {
  const me = useMe();
  return (
    <>
      <PageHead title="You" sub={me.data ? `${me.data.name} signs in as ${me.data.login}, ${me.data.role}` : undefined} />
      <div className="grid min-h-0 flex-1 content-start gap-3 overflow-auto p-4 xl:grid-cols-2">
        <Password login={me.data?.login ?? ''} />
        <ToldPanel />
        <Tokens />
      </div>
    </>
  );
}

function Password({ login }: { login: string }) {
  const change = useChangePassword();
  const say = useSay();
  const [password, setPassword] = useState('');
  const [next, setNext] = useState('');
  const [again, setAgain] = useState('');
  const differ = again !== '' && again !== next;
  return (
    <Panel title="Your password">
      <form
        className="max-w-sm space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (next !== again) return;
          change.mutate(
            { password, next },
            {
              onSuccess: () => {
                say('Your password is changed. Wherever else you were signed in, you no longer are.');
                setPassword('');
                setNext('');
                setAgain('');
              },
            },
          );
        }}
      >
        <input type="text" name="username" autoComplete="username" value={login} readOnly hidden />
        <Field
          label="Present password"
          type="password"
          autoComplete="current-password"
          required
          maxLength={200}
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        <Field
          label="New password"
          hint="10 characters or more, without your sign-in name"
          type="password"
          autoComplete="new-password"
          required
          minLength={10}
          maxLength={200}
          value={next}
          onChange={(e) => setNext(e.target.value)}
        />
        <Field
          label="New password again"
          hint={differ ? 'It differs from the one above.' : undefined}
          aria-invalid={differ}
          type="password"
          autoComplete="new-password"
          required
          maxLength={200}
          value={again}
          onChange={(e) => setAgain(e.target.value)}
        />
        <Trouble error={change.error} />
        <Button look="act" type="submit" disabled={change.isPending || differ}>
          Change the password
        </Button>
      </form>
    </Panel>
  );
}

function Tokens() {
  const tokens = useTokens();
  const add = useAddToken();
  const drop = useDropToken();
  const [name, setName] = useState('');
  const [days, setDays] = useState(90);
  const say = useSay();
  return (
    <Panel title="Your tokens">
      <p className="mb-2 text-sm text-soft">Programs and the command line sign in with them; each may do what you may.</p>
      <form
        className="mb-3 flex flex-wrap items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate({ name, days }, { onSuccess: () => setName('') });
        }}
      >
        <Field label="For" required maxLength={120} placeholder="nightly import" value={name} onChange={(e) => setName(e.target.value)} />
        <Field
          label="Days it holds"
          type="number"
          required
          min={1}
          max={730}
          value={days}
          onChange={(e) => setDays(Number(e.target.value))}
        />
        <Button type="submit" disabled={add.isPending}>
          Make a token
        </Button>
      </form>
      {add.data?.secret && (
        <div role="status" className="mb-3 rounded border border-amber bg-amber-tint px-3 py-2 text-sm">
          The token “{add.data.name}” is shown this once: copy it now.
          <div className="mt-1 flex flex-wrap items-center gap-2">
            <code className="font-mono break-all select-all">{add.data.secret}</code>
            <Button
              onClick={() => {
                void navigator.clipboard.writeText(add.data.secret ?? '').then(() => say('The token is on the clipboard.'));
              }}
            >
              Copy
            </Button>
            <Button onClick={() => add.reset()}>I have it</Button>
          </div>
        </div>
      )}
      <Trouble error={add.error ?? drop.error} />
      <Asked of={tokens}>
        {(all) =>
          all.length === 0 ? (
            <p className="text-sm text-soft">You have none.</p>
          ) : (
            <ul className="text-sm">
              {all.map((t) => (
                <li key={t.id} className="flex flex-wrap items-baseline gap-2 border-t border-line/60 py-1 first:border-t-0">
                  <span className="min-w-40 flex-1 font-semibold break-words">{t.name}</span>
                  <span className="text-soft">
                    since {new Date(t.created).toLocaleDateString()}, until {new Date(t.expires).toLocaleDateString()}
                  </span>
                  <Button look="quiet" aria-label={`End the token ${t.name}`} disabled={drop.isPending} onClick={() => drop.mutate(t.id)}>
                    End it
                  </Button>
                </li>
              ))}
            </ul>
          )
        }
      </Asked>
    </Panel>
  );
}
