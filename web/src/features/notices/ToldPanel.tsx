import { useState } from 'react';
import { type Schemas } from '../../api/client';
import { Asked } from '../../ui/asked';
import { Button, Field, Panel, Select, State, Trouble } from '../../ui/kit';
import { ScrollList } from '../../ui/scroll';
import { useSay } from '../../ui/toast';
import { useSendAgain, useSendings, useSetTold, useTold } from './queries';

/** How somebody is told beside the console: mail, digests, a hook; and what could not be sent. */
export function ToldPanel() {
  const told = useTold();
  return (
    <Panel title="How you are told">
      <Asked of={told}>{(t) => <Form key={t.version} t={t} />}</Asked>
      <Unsent />
    </Panel>
  );
}

function Form({ t }: { t: Schemas['Told'] }) {
  const set = useSetTold();
  const say = useSay();
  const [mail, setMail] = useState(t.mail ?? '');
  const [rhythm, setRhythm] = useState(t.rhythm);
  const [hook, setHook] = useState(t.hook ?? '');
  const save = (newKey: boolean) =>
    set.mutate(
      { version: t.version, body: { mail, rhythm, hook, newKey } },
      { onSuccess: () => say('Kept: you are told so from now on.') },
    );
  return (
    <form
      className="max-w-xl space-y-3"
      onSubmit={(e) => {
        e.preventDefault();
        save(false);
      }}
    >
      <p className="text-sm text-soft">In the console you are told at once, whatever you choose here.</p>
      {!t.mails && <p className="text-sm text-warn">This installation sends no mail: an administrator sets mail-server.</p>}
      <div className="grid gap-3 sm:grid-cols-2">
        <Field
          label="Mail to"
          type="email"
          maxLength={200}
          placeholder="you@example.org"
          value={mail}
          onChange={(e) => setMail(e.target.value)}
        />
        <Select label="How often" value={rhythm} onChange={(e) => setRhythm(e.target.value as typeof rhythm)}>
          <option value="none">no mail</option>
          <option value="once">for each deed, at once</option>
          <option value="hour">a digest each hour</option>
          <option value="day">a digest each morning (06:00 UTC)</option>
        </Select>
      </div>
      <Field
        label="Hook"
        hint="Each notice is sent there as a CloudEvent 1.0, signed by RFC 9421 with hmac-sha256"
        type="url"
        maxLength={500}
        placeholder="https://hooks.example.org/parts"
        value={hook}
        onChange={(e) => setHook(e.target.value)}
      />
      {t.secret && (
        <dl className="grid grid-cols-[8rem_1fr] gap-y-1 text-sm">
          <dt className="text-soft">Name of the key</dt>
          <dd className="font-mono break-all">{t.keyId}</dd>
          <dt className="text-soft">Key (base64)</dt>
          <dd className="font-mono break-all select-all">{t.secret}</dd>
        </dl>
      )}
      <Trouble error={set.error} />
      <div className="flex flex-wrap gap-2">
        <Button look="act" type="submit" disabled={set.isPending}>
          Keep
        </Button>
        {t.secret && (
          <Button disabled={set.isPending} onClick={() => save(true)}>
            Sign with a new key
          </Button>
        )}
      </div>
    </form>
  );
}

/** Mails and calls that wait or were set aside. */
function Unsent() {
  const sendings = useSendings();
  const again = useSendAgain();
  if (!sendings.data || sendings.data.items.length === 0) return null;
  return (
    <section className="mt-4 border-t border-line pt-3" aria-label="Not sent yet">
      <h3 className="mb-1 text-sm font-semibold">Not sent yet</h3>
      <Trouble error={again.error} />
      <ScrollList className="max-h-60 text-sm">
        {sendings.data.items.map((s) => (
          <li key={s.id} className="flex flex-wrap items-baseline gap-2 border-t border-line/60 py-1 first:border-t-0">
            <State of={s.state} more={s.tries ? `after ${s.tries} tries` : undefined} />
            <span className="min-w-40 flex-1 break-words">
              {s.way} to {s.address}
              {s.problem && <span className="block text-soft">{s.problem}</span>}
            </span>
            {s.state === 'aside' && (
              <Button disabled={again.isPending} onClick={() => again.mutate(s.id)}>
                Try again
              </Button>
            )}
          </li>
        ))}
      </ScrollList>
    </section>
  );
}
