import { useState } from 'react';
import { type Schemas } from '../../api/client';
import { Asked } from '../../ui/asked';
import { Button, Chip, Dialog, Empty, Field, PageHead, Panel, Select, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useCabinet } from '../cabinet/queries';
import { useMay } from '.';
import { useAccounts, useAddAccount, useChangeAccount, useDropGroup, useGroups, useSaveGroup } from './queries';

export { YouPage } from './you';

const kinds = ['symbol', 'land pattern', 'body', 'pin map'];
const roles: Schemas['NewAccount']['role'][] = ['reader', 'engineer', 'librarian', 'administrator'];

/** Who is here, and who answers for what. */
export function PeoplePage() {
  const may = useMay();
  const manage = may('account.manage');
  const groups = useGroups();
  const accounts = useAccounts(manage);
  const [group, setGroup] = useState<Schemas['Group'] | 'new'>();
  const [account, setAccount] = useState<Schemas['Account'] | 'new'>();
  return (
    <>
      <PageHead title="People" sub="Groups answer for drawers and kinds of model: moves, gates and the queue speak of them" />
      <div className="grid min-h-0 flex-1 content-start gap-3 overflow-auto p-4 xl:grid-cols-2">
        <Panel title="Groups" actions={manage && <Button onClick={() => setGroup('new')}>Make a group…</Button>}>
          <Asked of={groups}>
            {(l) =>
              l.items.length === 0 ? (
                <p className="text-sm text-soft">
                  No group yet. {manage ? 'Make one when a move or a review is for some people only.' : 'An administrator makes them.'}
                </p>
              ) : (
                <ul className="space-y-2 text-sm">
                  {l.items.map((g) => (
                    <li key={g.id} className="border-t border-line/60 pt-2 first:border-t-0 first:pt-0">
                      <div className="flex items-baseline gap-2">
                        <strong className="flex-1">
                          {g.name} {g.mine && <Chip tone="plain">you are in it</Chip>}
                        </strong>
                        {manage && (
                          <Button look="quiet" aria-label={`Change the group ${g.name}`} onClick={() => setGroup(g)}>
                            Change…
                          </Button>
                        )}
                      </div>
                      {g.about && <p className="text-soft">{g.about}</p>}
                      <p>{g.members.length === 0 ? <Chip tone="open">nobody is in it</Chip> : g.members.map((m) => m.name).join(', ')}</p>
                      {g.drawers.length + g.kinds.length > 0 && (
                        <p className="text-soft">answers for {[...g.drawers, ...g.kinds].join(', ')}</p>
                      )}
                    </li>
                  ))}
                </ul>
              )
            }
          </Asked>
        </Panel>
        {manage ? (
          <Panel title="Accounts" actions={<Button onClick={() => setAccount('new')}>Add somebody…</Button>}>
            <Asked of={accounts}>
              {(all) => (
                <table className="w-full text-sm">
                  <thead>
                    <tr className="text-left text-xs text-soft">
                      <th className="py-1 pr-3">Name</th>
                      <th className="pr-3">Signs in as</th>
                      <th className="pr-3">Role</th>
                      <th>
                        <span className="sr-only">Change</span>
                      </th>
                    </tr>
                  </thead>
                  <tbody>
                    {all.map((a) => (
                      <tr key={a.id} className="border-t border-line/60">
                        <td className="py-1 pr-3">
                          {a.name} {a.disabled && <Chip tone="bad">may not sign in</Chip>}
                        </td>
                        <td className="pr-3">{a.login}</td>
                        <td className="pr-3">{a.role}</td>
                        <td className="text-right">
                          <Button look="quiet" aria-label={`Change ${a.name}`} onClick={() => setAccount(a)}>
                            Change…
                          </Button>
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              )}
            </Asked>
          </Panel>
        ) : (
          <Empty title="Accounts are for administrators">Ask one to add somebody or to change a role.</Empty>
        )}
      </div>
      {group && <GroupDialog was={group === 'new' ? undefined : group} people={accounts.data ?? []} onClose={() => setGroup(undefined)} />}
      {account && <AccountDialog was={account === 'new' ? undefined : account} onClose={() => setAccount(undefined)} />}
    </>
  );
}

function GroupDialog({ was: now, people, onClose }: { was?: Schemas['Group']; people: Schemas['Account'][]; onClose: () => void }) {
  const [was] = useState(now);
  const [edit, setEdit] = useState<Schemas['GroupEdit']>({
    name: was?.name ?? '',
    about: was?.about,
    members: was?.members.map((m) => m.login) ?? [],
    drawers: was?.drawers ?? [],
    kinds: was?.kinds ?? [],
  });
  const cabinet = useCabinet();
  const save = useSaveGroup();
  const drop = useDropGroup();
  const say = useSay();
  const flip = (all: string[] | undefined, one: string) => (all?.includes(one) ? all.filter((x) => x !== one) : [...(all ?? []), one]);
  return (
    <Dialog open wide title={was ? `The group ${was.name}` : 'A new group'} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate(
            { was, body: edit },
            {
              onSuccess: () => {
                say(`The group ${edit.name} is saved.`);
                onClose();
              },
            },
          );
        }}
      >
        <Field label="Name" required maxLength={60} value={edit.name} onChange={(e) => setEdit({ ...edit, name: e.target.value })} />
        <Field label="About" maxLength={200} value={edit.about ?? ''} onChange={(e) => setEdit({ ...edit, about: e.target.value })} />
        <fieldset>
          <legend className="text-xs font-semibold text-soft">People</legend>
          <div className="grid max-h-40 grid-cols-2 gap-1 overflow-auto text-sm">
            {people.map((p) => (
              <label key={p.id} className="flex gap-2">
                <input
                  type="checkbox"
                  checked={edit.members.includes(p.login)}
                  onChange={() => setEdit({ ...edit, members: flip(edit.members, p.login) })}
                />
                {p.name} <span className="text-soft">{p.role}</span>
              </label>
            ))}
          </div>
        </fieldset>
        <fieldset>
          <legend className="text-xs font-semibold text-soft">Answers for these drawers, with those inside</legend>
          <div className="grid max-h-40 grid-cols-3 gap-1 overflow-auto text-sm">
            {cabinet.data?.drawers.map((d) => (
              <label key={d.key} className="flex gap-2" style={{ paddingLeft: `${(d.path.length - 1) * 0.7}rem` }}>
                <input
                  type="checkbox"
                  checked={edit.drawers?.includes(d.key) ?? false}
                  onChange={() => setEdit({ ...edit, drawers: flip(edit.drawers, d.key) })}
                />
                {d.label}
              </label>
            ))}
          </div>
        </fieldset>
        <fieldset className="flex flex-wrap gap-3 text-sm">
          <legend className="text-xs font-semibold text-soft">and for these models</legend>
          {kinds.map((k) => (
            <label key={k} className="flex gap-2">
              <input
                type="checkbox"
                checked={edit.kinds?.includes(k) ?? false}
                onChange={() => setEdit({ ...edit, kinds: flip(edit.kinds, k) })}
              />
              {k}
            </label>
          ))}
        </fieldset>
        <Trouble error={save.error ?? drop.error} />
        <div className="flex gap-2">
          <Button look="act" type="submit" disabled={save.isPending}>
            Save the group
          </Button>
          {was && (
            <Button look="danger" disabled={drop.isPending} onClick={() => drop.mutate(was, { onSuccess: onClose })}>
              Remove the group
            </Button>
          )}
        </div>
      </form>
    </Dialog>
  );
}

function AccountDialog({ was, onClose }: { was?: Schemas['Account']; onClose: () => void }) {
  const [login, setLogin] = useState('');
  const [name, setName] = useState('');
  const [role, setRole] = useState<Schemas['NewAccount']['role']>((was?.role as Schemas['NewAccount']['role']) ?? 'engineer');
  const [password, setPassword] = useState('');
  const [out, setOut] = useState(was?.disabled ?? false);
  const add = useAddAccount();
  const change = useChangeAccount();
  const say = useSay();
  const done = () => {
    say(was ? `${was.name} is changed.` : `${name} may sign in as ${login}.`);
    onClose();
  };
  return (
    <Dialog open title={was ? was.name : 'Add somebody'} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (was) change.mutate({ id: was.id, body: { role, disabled: out, password: password || undefined } }, { onSuccess: done });
          else add.mutate({ login, name, role, password }, { onSuccess: done });
        }}
      >
        {!was && (
          <>
            <Field
              label="Signs in as"
              required
              maxLength={64}
              autoComplete="off"
              value={login}
              onChange={(e) => setLogin(e.target.value)}
            />
            <Field label="Name" required maxLength={120} value={name} onChange={(e) => setName(e.target.value)} />
          </>
        )}
        <Select label="Role" value={role} onChange={(e) => setRole(e.target.value as typeof role)}>
          {roles.map((r) => (
            <option key={r}>{r}</option>
          ))}
        </Select>
        <Field
          label={was ? 'New password' : 'Password'}
          hint={was ? 'Blank leaves the one that is there' : 'To be changed by whoever gets it'}
          type="password"
          autoComplete="new-password"
          required={!was}
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        {was && (
          <label className="flex gap-2 text-sm">
            <input type="checkbox" checked={out} onChange={(e) => setOut(e.target.checked)} />
            may not sign in any more
          </label>
        )}
        <Trouble error={add.error ?? change.error} />
        <Button look="act" type="submit" disabled={add.isPending || change.isPending}>
          {was ? 'Save' : 'Add'}
        </Button>
      </form>
    </Dialog>
  );
}
