import { useCabinet } from '../cabinet/queries';
import { useEffect, useState } from 'react';
import type { Schemas } from '../../api/client';
import { later } from '../../ui/idle';
import { Button, Chip, Dialog, Field, Select, TextArea, Trouble } from '../../ui/kit';
import { places, targetWords, useTryRule, type Intake, type Rule } from './queries';

/** Edits one rule; what it does to real rows is shown before and after while it is edited. */
export function RuleDialog({
  intake: i,
  start,
  was,
  busy,
  error,
  onClose,
  onSave,
}: {
  intake: Intake;
  start: Rule;
  was?: Rule;
  busy: boolean;
  error: unknown;
  onClose: () => void;
  onSave: (body: Schemas['IntakeEdit']) => void;
}) {
  const cabinet = useCabinet();
  const [rule, setRule] = useState<Rule>(start);
  const [take, setTake] = useState('');
  const [tried, setTried] = useState<Rule>();
  const [words, setWords] = useState(
    Object.entries(start.words ?? {})
      .map(([a, b]) => `${a} = ${b}`)
      .join('\n'),
  );
  const parameters = cabinet.data?.document.parameters ?? [];
  const source = rule.constant !== undefined ? 'constant' : rule.combine !== undefined ? 'combine' : 'field';
  const way = rule.piece?.fact ? 'fact' : rule.piece?.word !== undefined ? 'word' : rule.piece ? 'marks' : 'all';
  const ready = rule.to !== '' && (rule.from || rule.combine || rule.constant);
  useEffect(() => later(() => setTried(ready ? rule : undefined), 250), [rule, ready]);
  const try_ = useTryRule(i.id, i.version, tried);
  const set = (change: Partial<Rule>) =>
    setRule((r) => Object.fromEntries(Object.entries({ ...r, ...change }).filter(([, v]) => v !== undefined)) as Rule);
  const kind = parameters.find((p) => p.key === rule.to);
  return (
    <Dialog open wide title={was ? `Rule for ${targetWords(was.to, parameters)}` : `Map ${start.from || 'a field'}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (take) onSave({ changes: [{ take: { [take]: rule.from ?? '' } }] });
          else if (was && !sameTarget(was, rule)) onSave({ changes: [{ drop: was }, { rule }] });
          else onSave({ changes: [{ rule }] });
        }}
      >
        <div className="grid gap-2 md:grid-cols-4">
          <Select
            label="Takes"
            value={source}
            onChange={(e) =>
              set({
                from: e.target.value === 'field' ? '' : undefined,
                combine: e.target.value === 'combine' ? '' : undefined,
                constant: e.target.value === 'constant' ? '' : undefined,
              })
            }
          >
            <option value="field">one field</option>
            <option value="combine">several fields</option>
            <option value="constant">the same text always</option>
          </Select>
          {source === 'field' && (
            <Select label="Field" value={rule.from ?? ''} onChange={(e) => set({ from: e.target.value })}>
              <option value="">choose…</option>
              {i.fields.map((f) => (
                <option key={f}>{f}</option>
              ))}
            </Select>
          )}
          {source === 'combine' && (
            <Field label="Fields in braces" placeholder="{L} x {W}" value={rule.combine ?? ''} onChange={(e) => set({ combine: e.target.value })} />
          )}
          {source === 'constant' && <Field label="Text" value={rule.constant ?? ''} onChange={(e) => set({ constant: e.target.value })} />}
          <Select
            label="Fills"
            value={take ? `take.${take}` : rule.to}
            onChange={(e) => {
              const to = e.target.value;
              setTake(to.startsWith('take.') ? to.slice(5) : '');
              set({ to: to.startsWith('take.') ? '' : to });
            }}
          >
            <option value="">choose…</option>
            {source === 'field' && (
              <optgroup label="What identifies a row">
                {places.map((p) => (
                  <option key={p} value={`take.${p}`}>
                    {targetWords(`take.${p}`, [])}
                  </option>
                ))}
              </optgroup>
            )}
            <optgroup label="Parameters">
              <option value="@leading">each drawer’s leading parameter</option>
              {parameters.map((p) => (
                <option key={p.key} value={p.key}>
                  {p.label}
                </option>
              ))}
            </optgroup>
          </Select>
          <Select label="Where" value={rule.drawers?.[0] ?? ''} onChange={(e) => set({ drawers: e.target.value ? [e.target.value] : undefined })}>
            <option value="">in every drawer that has it</option>
            {cabinet.data?.drawers.map((d) => (
              <option key={d.key} value={d.key}>
                in {d.label}
              </option>
            ))}
          </Select>
        </div>
        {!take && (
          <div className="grid gap-2 md:grid-cols-4">
            <Select
              label="Of the text"
              value={way}
              onChange={(e) =>
                set({ piece: { all: undefined, fact: { fact: true }, word: { word: 1 }, marks: { after: '', before: '' } }[e.target.value] })
              }
            >
              <option value="all">all of it</option>
              <option value="fact">the one value that fits</option>
              <option value="word">a word by its place</option>
              <option value="marks">what stands between marks</option>
            </Select>
            {way === 'word' && (
              <Field label="Word" type="number" hint="negative: from the end" value={rule.piece?.word ?? 1} onChange={(e) => set({ piece: { word: Number(e.target.value) } })} />
            )}
            {way === 'marks' && (
              <>
                <Field label="After" value={rule.piece?.after ?? ''} onChange={(e) => set({ piece: { ...rule.piece, after: e.target.value } })} />
                <Field label="Before" value={rule.piece?.before ?? ''} onChange={(e) => set({ piece: { ...rule.piece, before: e.target.value } })} />
              </>
            )}
            {(!kind || kind.type === 'measure') && (
              <>
                <Field label="Unit, where none is written" value={rule.unit ?? ''} onChange={(e) => set({ unit: e.target.value || undefined })} />
                <Select label="Decimals" value={rule.decimalMark ?? ''} onChange={(e) => set({ decimalMark: e.target.value || undefined })}>
                  <option value="">as the crosswalk says</option>
                  <option value="comma">comma</option>
                  <option value="point">point</option>
                </Select>
                <Select label="Of a range" value={rule.end ?? ''} onChange={(e) => set({ end: e.target.value || undefined })}>
                  <option value="">all of it</option>
                  <option value="low">its low end</option>
                  <option value="high">its high end</option>
                </Select>
              </>
            )}
            <div className="md:col-span-2">
              <TextArea
                label="Replace whole texts, one a line"
                rows={2}
                placeholder="NP0 = C0G"
                value={words}
                onChange={(e) => {
                  setWords(e.target.value);
                  const table = Object.fromEntries(
                    e.target.value
                      .split('\n')
                      .map((l) => l.split('=').map((s) => s.trim()))
                      .filter((l): l is [string, string] => l.length === 2 && l[0] !== '' && l[1] !== ''),
                  );
                  set({ words: Object.keys(table).length ? table : undefined });
                }}
              />
            </div>
            {rule.doubt && (
              <p className="text-sm md:col-span-2">
                Doubts are read as though {rule.doubt}.{' '}
                <Button look="quiet" onClick={() => set({ doubt: undefined })}>
                  Ask again
                </Button>
              </p>
            )}
          </div>
        )}
        {try_.data && !take && (
          <div>
            <p className="mb-1 text-xs font-semibold text-soft">
              Before and after: {try_.data.read} distinct texts are read, {try_.data.unread} are not.
            </p>
            {try_.data.problem && <p className="text-sm text-rust">{try_.data.problem}</p>}
            <table className="w-full text-sm">
              <tbody>
                {try_.data.samples.map((s) => (
                  <tr key={s.row} className="border-t border-line/60">
                    <td className="w-14 py-0.5 text-right text-soft">{s.row}</td>
                    <td className="px-2 font-mono text-xs">{s.written}</td>
                    <td className="px-2 font-semibold">{s.problem ? <Chip tone="bad">not read</Chip> : s.value}</td>
                    <td className="text-xs text-soft">{s.problem ?? s.note}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
        <Trouble error={error ?? try_.error} />
        <div className="flex gap-2">
          <Button look="act" type="submit" disabled={busy || !(ready || (take && rule.from))}>
            Use the rule
          </Button>
          {was && (
            <Button look="danger" onClick={() => onSave({ changes: [{ drop: was }] })}>
              Remove it
            </Button>
          )}
          {!was && start.from && <Button onClick={() => onSave({ changes: [{ unused: [start.from ?? ''] }] })}>Leave the field out</Button>}
        </div>
      </form>
    </Dialog>
  ); // prettier-ignore
}

const sameTarget = (a: Rule, b: Rule) =>
  a.from === b.from && a.combine === b.combine && a.to === b.to && (a.drawers ?? []).join() === (b.drawers ?? []).join();
