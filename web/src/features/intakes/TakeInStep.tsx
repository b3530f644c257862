import { useCabinet } from '../cabinet/queries';
import { useState } from 'react';
import { ApiError } from '../../api/client';
import { Choose } from '../../ui/choose';
import { Button, Panel, State, Trouble } from '../../ui/kit';
import { useMay } from '../people';
import { states } from './words';
import { EditTrouble } from './EditTrouble';
import { targetWords, useEditIntake, useTakeIn, type Intake } from './queries';

const said: Record<string, string> = {
  new: 'become drafts, each with a number of its own or the one that the file brings',
  update: 'change a part of the library: the change is a draft until somebody releases it',
  alternate: 'become another source of a part',
  known: 'are in the library already, with the same values',
  differs: 'are in the library with other values, and are left alone until you say whose are right',
  repeat: 'say the same as an earlier row',
  unsorted: 'have no drawer and cannot be taken in',
  blocked: 'have an error and cannot be taken in',
  'left out': 'are left out on purpose',
};

const policies = [
  { value: '', text: 'as above' },
  { value: 'keep', text: 'ours are right' },
  { value: 'fill', text: 'fill blanks' },
  { value: 'replace', text: 'the supplier’s win' },
  { value: 'ask', text: 'ask' },
];

/** What taking in would do, and doing it. */
export function TakeInStep({ intake: i, onShow }: { intake: Intake; onShow: (state: string) => void }) {
  const takeIn = useTakeIn(i.id);
  const edit = useEditIntake(i.id);
  const may = useMay();
  const cabinet = useCabinet();
  const label = (key: string) => targetWords(key, cabinet.data?.document.parameters ?? []);
  const [leave, setLeave] = useState(false);
  const [even, setEven] = useState(false);
  const elsewhere = takeIn.error instanceof ApiError && (takeIn.error.problem.type ?? '').endsWith('/settled');
  const stuck = (i.counts['blocked'] ?? 0) + (i.counts['unsorted'] ?? 0);
  const running = i.job?.kind === 'take-in' && (i.job.state === 'waiting' || i.job.state === 'running');
  const set = (body: Parameters<typeof edit.mutate>[0]['body']) => edit.mutate({ version: i.version, body });
  const choice = (name: string, now: string, value: string, text: string, on: () => void) => (
    <button
      key={name + value}
      type="button"
      aria-pressed={now === value}
      disabled={!may('intake.edit') || edit.isPending}
      onClick={() => now !== value && on()}
      className="flex w-full items-start gap-2 rounded px-1.5 py-0.5 text-left text-sm hover:bg-tint disabled:opacity-60 aria-[pressed=true]:bg-tint aria-[pressed=true]:font-semibold"
    >
      <span aria-hidden="true" className="w-3">
        {now === value ? '●' : '○'}
      </span>
      {text}
    </button>
  );
  return (
    <div className="grid gap-3 overflow-auto p-4 lg:grid-cols-[1fr_26rem]">
      <Panel title="What will happen">
        <table className="w-full text-sm">
          <tbody>
            {states
              .filter((s) => (i.counts[s] ?? 0) > 0)
              .map((s) => (
                <tr key={s} className="border-b border-line/60">
                  <td className="w-16 py-1 text-right font-semibold">{i.counts[s]}</td>
                  <td className="px-3 py-1">
                    <button type="button" className="underline" onClick={() => onShow(s)}>
                      <State of={s} />
                    </button>
                  </td>
                  <td className="py-1">{said[s]}</td>
                </tr>
              ))}
          </tbody>
        </table>
        {i.changes.length > 0 && (
          <p className="mt-2 text-sm">
            {i.changes.length} changes of the mapping become revision {i.revision + 1} of the crosswalk of {i.supplier}.
          </p>
        )}
        {may('intake.take-in') && (
          <form
            className="mt-3 space-y-2 text-sm"
            onSubmit={(e) => {
              e.preventDefault();
              takeIn.mutate({ version: i.version, digest: i.digest, leaveBlocked: leave, ...(even ? { evenSettled: true } : {}) });
            }}
          >
            {stuck > 0 && (
              <label className="flex gap-2 rounded bg-amber-tint p-2">
                <input type="checkbox" checked={leave} onChange={(e) => setLeave(e.target.checked)} />
                {stuck} rows cannot be taken in. Leave them out.
              </label>
            )}
            <Trouble error={takeIn.error} />
            {elsewhere && (
              <label className="flex gap-2 rounded bg-amber-tint p-2">
                <input type="checkbox" checked={even} onChange={(e) => setEven(e.target.checked)} />
                Settled rows of other open intakes may change too.
              </label>
            )}
            <Button look="act" type="submit" disabled={takeIn.isPending || running || !!i.problem || (stuck > 0 && !leave)}>
              Take in {i.counts['new'] ?? 0} parts{i.counts['update'] ? ` and change ${i.counts['update']}` : ''}
            </Button>
            <p className="text-xs text-soft">All of it or nothing. Afterwards it can be taken back as long as nobody has built on it.</p>
          </form>
        )}
      </Panel>
      <div className="space-y-3">
        <Panel title="Rows that the library has with other values">
          {choice('known', i.known, 'ask', 'leave the part alone and say so', () => set({ known: 'ask' }))}
          {choice('known', i.known, 'fill', 'ours win: only blanks of the part are filled', () => set({ known: 'fill' }))}
          {choice('known', i.known, 'replace', 'the supplier’s win: values of the part are changed', () => set({ known: 'replace' }))}
          {choice('known', i.known, 'keep', 'leave the rows out', () => set({ known: 'keep' }))}
        </Panel>
        {Object.keys(i.differing).length > 0 && (
          <Panel title="Parameter by parameter">
            <ul className="space-y-1 text-sm">
              {Object.entries(i.differing).map(([key, rows]) => (
                <li key={key} className="flex items-center gap-2">
                  <span className="flex-1 truncate">
                    {label(key)} <span className="text-soft">{rows} rows differ</span>
                  </span>
                  {may('intake.edit') ? (
                    <Choose
                      label={`Values of ${label(key)}`}
                      text={policies.find((o) => o.value === (i.policies[key] ?? ''))?.text ?? ''}
                      value={i.policies[key] ?? ''}
                      options={policies}
                      onChoose={(how) => set({ policies: { [key]: how } })}
                    />
                  ) : (
                    policies.find((o) => o.value === (i.policies[key] ?? ''))?.text
                  )}
                </li>
              ))}
            </ul>
          </Panel>
        )}
        <Panel title="Rows like a part in every identifying parameter">
          {choice('like', i.like ?? 'new', 'new', 'parts of their own', () => set({ like: 'new' }))}
          {choice('like', i.like ?? 'new', 'alternate', 'another source of the part they are like', () => set({ like: 'alternate' }))}
          {choice('like', i.like ?? 'new', 'keep', 'leave the rows out', () => set({ like: 'keep' }))}
        </Panel>
        <EditTrouble intake={i} edit={edit} />
      </div>
    </div>
  );
}
