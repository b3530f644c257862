import { useState, type ReactNode } from 'react';
import { Button, Chip, Dialog, Field, Select, Trouble } from '../../ui/kit';
import { ScrollList } from '../../ui/scroll';
import { useSay } from '../../ui/toast';
import { useChange, usePreview, type Cabinet, type Change, type Drawer, type Preview, type Step } from './queries';

/** What a change would do, said before it is done. */
export function PreviewOf({ preview: p }: { preview: Preview }) {
  return (
    <div className="space-y-2 text-sm" role="status">
      <p>
        <strong>{p.parts.toLocaleString('en')} parts change</strong>: {p.released.toLocaleString('en')} get a new revision,{' '}
        {p.drafts.toLocaleString('en')} wait in a draft. {p.incomplete > 0 && <Chip tone="bad">{p.incomplete} become incomplete</Chip>}{' '}
        {p.lossCount > 0 && <Chip tone="bad">{p.lossCount} values are not carried over</Chip>}{' '}
        {p.undoable ? <Chip tone="good">can be taken back</Chip> : <Chip tone="open">cannot be taken back as a whole</Chip>}
      </p>
      {p.crosswalks.length > 0 && <p>Crosswalks that follow: {p.crosswalks.join(', ')}</p>}
      {p.also.length > 0 && <p>What else follows: {p.also.join(', ')}</p>}
      {p.losses.length > 0 && (
        <div className="max-h-40 overflow-auto rounded border border-line">
          <table className="w-full">
            <thead>
              <tr className="text-left text-xs text-soft">
                <th className="px-2 py-1">Part</th>
                <th className="pr-2">Value</th>
                <th className="pr-2">Why it is not carried over</th>
              </tr>
            </thead>
            <tbody>
              {p.losses.map((l, i) => (
                <tr key={i} className="border-t border-line/60">
                  <td className="px-2">{l.number}</td>
                  <td className="pr-2 font-medium">
                    {l.parameter}: {l.text}
                  </td>
                  <td className="pr-2 text-soft">
                    {l.why}
                    {l.kept && '; it stays as text to be read'}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {p.samples.some((s) => s.was !== s.description) && (
        <ScrollList className="max-h-40">
          {p.samples
            .filter((s) => s.was !== s.description)
            .map((s) => (
              <li key={s.number}>
                <span className="text-soft">{s.number}</span> {s.was} <span aria-label="becomes">→</span> <strong>{s.description}</strong>
              </li>
            ))}
        </ScrollList>
      )}
    </div>
  );
}

/** Asks for a preview, shows it, and makes the change that was looked at. */
export function Confirm({
  change,
  said,
  onDone,
  children,
}: {
  /** The change as the fields say it now; undefined while they are not filled. */
  change: Change | undefined;
  said: string;
  onDone: () => void;
  children: ReactNode;
}) {
  const preview = usePreview();
  const make = useChange();
  const say = useSay();
  const [looked, setLooked] = useState('');
  const now = JSON.stringify(change);
  const fresh = looked === now ? preview.data : undefined;
  return (
    <form
      className="space-y-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (!change) return;
        if (!fresh) {
          setLooked(now);
          preview.mutate(change);
          return;
        }
        make.mutate(
          { version: fresh.version, body: { ...change, digest: fresh.digest } },
          {
            onSuccess: (c) => (say(`${said} ${c?.parts ?? 0} parts changed; the cabinet is at revision ${c?.revision ?? '?'}.`), onDone()),
          },
        );
      }}
    >
      {children}
      <Trouble error={looked === now ? (preview.error ?? make.error) : undefined} />
      {fresh && <PreviewOf preview={fresh} />}
      <div className="flex gap-2">
        <Button look={fresh ? 'act' : 'plain'} type="submit" disabled={!change || preview.isPending || make.isPending}>
          {make.isPending ? 'Changing…' : fresh ? `Change ${fresh.parts.toLocaleString('en')} parts` : 'Preview'}
        </Button>
      </div>
    </form>
  );
}

const kinds: { value: Step['do']; text: string; says: string }[] = [
  { value: 'rename', text: 'Rename', says: 'Values keep their meaning; patterns, crosswalks and what else names it follow.' },
  { value: 'retype', text: 'Change the type', says: 'Every value is read anew; what does not fit stays as text in a draft.' },
  { value: 'unit', text: 'Change the unit shown', says: 'The values themselves stay as they are.' },
  { value: 'split', text: 'Split', says: 'Parts of the values go to parameters of their own; the values stay.' },
  { value: 'retire', text: 'Retire', says: 'The values leave the parts; earlier revisions keep them.' },
];

/** One step that changes a parameter which parts already use. */
export function ParameterDialog({
  cabinet,
  drawer,
  parameter,
  onClose,
}: {
  cabinet: Cabinet;
  drawer: Drawer;
  parameter: string;
  onClose: () => void;
}) {
  const slot = drawer.slots.find((s) => s.key === parameter);
  const [kind, setKind] = useState<Step['do']>('rename');
  const [v, setV] = useState<Record<string, string>>({
    to: parameter,
    label: slot?.label ?? '',
    type: slot?.type ?? 'text',
    of: slot?.of ?? '',
    show: slot?.show ?? '',
    where: '',
  });
  const put = (key: string) => (e: { target: { value: string } }) => setV({ ...v, [key]: e.target.value });
  const step = (): Step | undefined => {
    switch (kind) {
      case 'rename':
        return v.to === parameter && v.label === slot?.label ? undefined : { do: kind, parameter, to: v.to, label: v.label };
      case 'retype':
        return {
          do: kind,
          parameter,
          type: v.type,
          of: v.type === 'measure' ? v.of : undefined,
          choices:
            v.type === 'choice'
              ? (v.choices ?? '')
                  .split(',')
                  .map((c) => c.trim())
                  .filter(Boolean)
              : undefined,
        };
      case 'unit':
        return { do: kind, parameter, show: v.show };
      case 'split':
        return v.first && v.takes
          ? {
              do: kind,
              parameter,
              into: [
                { parameter: v.first, take: v.takes as 'low' },
                ...(v.second && v.takes2 ? [{ parameter: v.second, take: v.takes2 as 'low' }] : []),
              ],
            }
          : undefined;
      default:
        return { do: kind, parameter, drawer: v.where || undefined };
    }
  };
  const s = step();
  const others = cabinet.document.parameters.filter((p) => p.key !== parameter);
  const dimensions = [...new Set(cabinet.document.parameters.map((p) => p.of).filter(Boolean))].sort();
  const takes = ['low', 'high', 'nominal', 'tolerance', 'condition'];
  const pick = (label: string, key: string, options: string[], name: (k: string) => string = (k) => k) => (
    <Select label={label} value={v[key] ?? ''} onChange={put(key)}>
      <option value="">–</option>
      {options.map((o) => (
        <option key={o} value={o}>
          {name(o)}
        </option>
      ))}
    </Select>
  );
  const parameterName = (k: string) => others.find((p) => p.key === k)?.label ?? k;
  return (
    <Dialog title={`Change the parameter ${slot?.label ?? parameter}`} open onClose={onClose} wide>
      <Confirm change={s && { steps: [s] }} said="Done:" onDone={onClose}>
        <div role="radiogroup" aria-label="What to do" className="flex flex-wrap gap-3 text-sm">
          {kinds.map((k) => (
            <label key={k.value} className="flex items-center gap-1.5">
              <input type="radio" name="kind" checked={kind === k.value} onChange={() => setKind(k.value)} /> {k.text}
            </label>
          ))}
        </div>
        <p className="text-sm text-soft">{kinds.find((k) => k.value === kind)?.says}</p>
        <div className="grid gap-3 sm:grid-cols-2">
          {kind === 'rename' && (
            <>
              <Field label="Key" value={v.to} onChange={put('to')} />
              <Field label="Label" value={v.label} onChange={put('label')} />
            </>
          )}
          {kind === 'retype' && (
            <>
              {pick('Type', 'type', ['measure', 'text', 'choice', 'number', 'yes-no', 'link', 'date'])}
              {v.type === 'measure' && pick('Of', 'of', dimensions as string[])}
              {v.type === 'choice' && <Field label="Choices, parted by commas" value={v.choices ?? ''} onChange={put('choices')} />}
            </>
          )}
          {kind === 'unit' && (
            <Field label="Show in" value={v.show} onChange={put('show')} hint="Such as mm or µF; blank: whichever prefix suits" />
          )}
          {kind === 'split' && (
            <>
              {pick(
                'First into',
                'first',
                others.map((p) => p.key),
                parameterName,
              )}
              {pick('takes the', 'takes', takes)}
              {pick(
                'Second into',
                'second',
                others.map((p) => p.key),
                parameterName,
              )}
              {pick('takes the', 'takes2', takes)}
            </>
          )}
          {kind === 'retire' && pick('Only from the drawer', 'where', drawer.path)}
        </div>
      </Confirm>
    </Dialog>
  );
}

/** Moves all parts of a drawer, or those named, to another. */
export function MoveDialog({ cabinet, drawer, onClose }: { cabinet: Cabinet; drawer: Drawer; onClose: () => void }) {
  const [to, setTo] = useState('');
  const [parts, setParts] = useState('');
  const list = parts.split(/[\s,;]+/).filter(Boolean);
  return (
    <Dialog title={`Move parts out of ${drawer.label}`} open onClose={onClose} wide>
      <Confirm
        change={to ? { steps: [{ do: 'move', drawer: drawer.key, to, parts: list.length ? list : undefined }] } : undefined}
        said="Moved:"
        onDone={onClose}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <Select label="To the drawer" value={to} onChange={(e) => setTo(e.target.value)}>
            <option value="">choose…</option>
            {cabinet.drawers
              .filter((d) => d.leaf && d.key !== drawer.key)
              .map((d) => (
                <option key={d.key} value={d.key}>
                  {d.label}
                </option>
              ))}
          </Select>
          <Field label="Part numbers" value={parts} onChange={(e) => setParts(e.target.value)} hint="Blank: all parts of the drawer" />
        </div>
      </Confirm>
    </Dialog>
  );
}
