import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { Link } from 'react-router';
import { api, take, type Schemas } from '../../api/client';
import { Button, Empty, Field, PageHead, Panel, Select, State, TextArea, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { ModelTabs } from './ModelList';
import { TableFile } from './TableFile';
import { useDeed } from './queries';

type Figures = Schemas['ModelFigures'];

const densities = ['most', 'nominal', 'least'] as const;

const dual = ['pins', 'pitch', 'span', 'leadLength', 'leadWidth', 'bodyWidth', 'bodyLength', 'thermalX', 'thermalY'];
const quad = ['pins', 'pinsAcross', 'pitch', 'span', 'spanAcross', ...dual.slice(3)];
const ends = ['span', 'leadLength', 'leadWidth'];

/** What is asked of each family: a range has a least and a greatest figure, the others one. */
const asked: Record<string, string[]> = {
  chip: ends,
  cylinder: ends,
  'gull wing dual': dual,
  'gull wing quad': quad,
  'no-lead dual': dual,
  'no-lead quad': quad,
  'ball grid': ['rows', 'columns', 'pitch', 'ball', 'missing', 'bodyWidth', 'bodyLength'],
  'pins in holes': ['pins', 'rows', 'pitch', 'rowSpacing', 'leadWidth', 'bodyWidth', 'bodyLength', 'count'],
};

const labels: Record<string, string> = {
  pins: 'Pins',
  pinsAcross: 'Pins in each upper and lower row',
  pitch: 'Pitch',
  span: 'Over the ends of the terminals',
  spanAcross: 'The same from top to bottom',
  leadLength: 'Length of a terminal',
  leadWidth: 'Width of a terminal',
  bodyWidth: 'Body, left to right',
  bodyLength: 'Body, top to bottom',
  thermalX: 'Thermal pad, width',
  thermalY: 'Thermal pad, height',
  rows: 'Rows',
  columns: 'Columns',
  ball: 'Diameter of a ball',
  missing: 'Balls that are missing',
  rowSpacing: 'From row to row',
  count: 'Numbered',
};

const ranges = new Set(['span', 'spanAcross', 'leadLength', 'leadWidth', 'bodyWidth', 'bodyLength']);
const numbers = new Set(['pins', 'pinsAcross', 'rows', 'columns']);
const words = new Set(['missing', 'count']);
const optional = new Set(['pinsAcross', 'spanAcross', 'thermalX', 'thermalY', 'missing', 'count', 'rowSpacing']);

/** The typed fields as the figures that the service takes; nothing while one that is needed is blank. */
export function figuresOf(family: string, fields: Record<string, string>, name: string): Figures | undefined {
  const out: Record<string, unknown> = { family };
  for (const key of asked[family] ?? []) {
    const text = (fields[key] ?? '').trim();
    if (text === '') {
      if (optional.has(key)) continue;
      return undefined;
    }
    if (ranges.has(key)) out[key] = { text };
    else if (numbers.has(key)) out[key] = Number(text);
    else out[key] = text;
  }
  if (out.count === 'round') delete out.count;
  if (name) out.name = name;
  return out as Figures;
}

/** Land patterns made from a package's figures by the standard, or from a table of pads, seen while the figures are typed. */
export function LandMaker() {
  const may = useMay();
  const say = useSay();
  const [from, setFrom] = useState<'figures' | 'table'>('figures');
  const [family, setFamily] = useState('gull wing dual');
  const [fields, setFields] = useState<Record<string, string>>({});
  const [levels, setLevels] = useState<string[]>(['nominal']);
  const [pattern, setPattern] = useState('');
  const [text, setText] = useState('');
  const [file, setFile] = useState('');
  const [arriving, setArriving] = useState(false);
  const [unit, setUnit] = useState('');
  const [name, setName] = useState('');
  const [note, setNote] = useState('made from the package drawing');
  const [kept, setKept] = useState<{ id: string; name: string }[]>([]);
  const night = document.documentElement.dataset.theme === 'dark';
  const figures = from === 'figures' ? figuresOf(family, fields, pattern) : undefined;
  const typed = JSON.stringify(
    from === 'figures'
      ? { figures, densities: densities.filter((d) => levels.includes(d)) }
      : { ...(file ? { file } : { text }), unit: unit || undefined, name },
  );
  const ready = from === 'figures' ? !!figures && levels.length > 0 : text.trim() !== '' || file !== '';
  const trial = (body: string) => ({
    queryKey: ['land-try', body, night],
    queryFn: () =>
      take(
        api.POST('/api/v1/land-pattern-tries', {
          body: { ...(JSON.parse(body) as Schemas['LandTry']), theme: night ? 'night' : 'day' },
        }),
      ),
    retry: false,
  });
  const tried = useQuery({ ...trial(useDeferredValue(typed)), enabled: ready, placeholderData: (before) => before });
  const held = useQueryClient();
  const keep = useDeed(
    async (what: string) => {
      const out: { id: string; name: string }[] = [];
      // What is drawn may be a keystroke behind the fields: what is kept is what they say.
      const all = (await held.fetchQuery({ ...trial(what), staleTime: Infinity })).made;
      for (const made of all) {
        const m = await take(
          api.POST('/api/v1/models', { body: { kind: 'land pattern', name: made.name, landPattern: made.landPattern } }),
        );
        out.push({ id: m.id, name: m.name });
        if (note && may('model.release'))
          await take(
            api.POST('/api/v1/models/{id}/release', {
              params: { path: { id: m.id }, header: { 'If-Match': `"${m.version}"` } },
              body: { note },
            }),
          );
      }
      return out;
    },
    (all) => {
      setKept(all);
      say(`Kept: ${all.map((m) => m.name).join(', ')}.`);
    },
  );
  const made = ready ? (tried.data?.made ?? []) : [];
  const named = from === 'figures' || name.trim() !== '';
  return (
    <>
      <PageHead title="Make a land pattern" sub="From the figures of a package drawing by IPC-7351B, or from a table of pads" />
      <ModelTabs at="/models/make-land-pattern" />
      <div className="grid min-h-0 flex-1 gap-3 overflow-auto p-4 lg:grid-cols-2">
        <div className="space-y-3">
          <Panel title="Figures">
            <div className="space-y-3">
              <Select label="Made from" value={from} onChange={(e) => setFrom(e.target.value as 'figures')}>
                <option value="figures">figures of the package</option>
                <option value="table">a table of pads</option>
              </Select>
              {from === 'figures' ? (
                <>
                  <Select label="Family" value={family} onChange={(e) => setFamily(e.target.value)}>
                    {Object.keys(asked).map((f) => (
                      <option key={f}>{f}</option>
                    ))}
                  </Select>
                  <div className="grid grid-cols-2 gap-x-3 gap-y-2">
                    {(asked[family] ?? []).map((key) =>
                      key === 'count' ? (
                        <Select
                          key={key}
                          label={labels[key] ?? key}
                          value={fields.count ?? 'round'}
                          onChange={(e) => setFields({ ...fields, count: e.target.value })}
                        >
                          <option value="round">round the part</option>
                          <option value="across">across from row to row</option>
                        </Select>
                      ) : (
                        <Field
                          key={key}
                          label={`${labels[key] ?? key}${numbers.has(key) || words.has(key) ? '' : ', mm'}`}
                          placeholder={ranges.has(key) ? '5.8 .. 6.2 or 6 ± 0.2' : optional.has(key) ? 'none' : ''}
                          inputMode={numbers.has(key) ? 'numeric' : undefined}
                          value={fields[key] ?? ''}
                          onChange={(e) => setFields({ ...fields, [key]: e.target.value })}
                        />
                      ),
                    )}
                  </div>
                  <fieldset className="flex flex-wrap gap-4 text-sm">
                    <legend className="text-xs text-soft">Density levels</legend>
                    {densities.map((d) => (
                      <label key={d} className="flex gap-2">
                        <input
                          type="checkbox"
                          checked={levels.includes(d)}
                          onChange={(e) => setLevels(e.target.checked ? [...levels, d] : levels.filter((x) => x !== d))}
                        />
                        {d}
                      </label>
                    ))}
                  </fieldset>
                  <Field
                    label="Pattern of the name"
                    placeholder="{family} {pins} {width} x {length} {density}"
                    value={pattern}
                    onChange={(e) => setPattern(e.target.value)}
                  />
                </>
              ) : (
                <>
                  <TextArea
                    label="Table of pads, as pasted"
                    rows={6}
                    placeholder={'Number\tX (mm)\tY (mm)\tWidth (mm)\tHeight (mm)\tShape\tHole (mm)\n1\t-1.27\t0\t1.6\t1.6\trectangle\t0.9'}
                    value={text}
                    onChange={(e) => {
                      setText(e.target.value);
                      setFile('');
                    }}
                  />
                  <TableFile
                    onFile={(hash) => {
                      setArriving(hash === undefined); // nothing is kept of the table that was there before
                      setFile(hash ?? '');
                    }}
                  />
                  <Select label="Unit, where the headings name none" value={unit} onChange={(e) => setUnit(e.target.value)}>
                    <option value="">none</option>
                    {['mm', 'mil', 'inch', 'µm'].map((u) => (
                      <option key={u}>{u}</option>
                    ))}
                  </Select>
                  <Field label="Name of the land pattern" maxLength={100} value={name} onChange={(e) => setName(e.target.value)} />
                </>
              )}
            </div>
          </Panel>
          {ready && <Trouble error={tried.error} />}
          {made.length > 0 && !tried.error && (
            <form
              className="flex flex-wrap items-end gap-3"
              onSubmit={(e) => {
                e.preventDefault();
                keep.mutate(typed);
              }}
            >
              {may('model.release') && (
                <Field label="Release note" placeholder="blank leaves a draft" value={note} onChange={(e) => setNote(e.target.value)} />
              )}
              <Button look="act" type="submit" disabled={keep.isPending || arriving || !may('model.edit') || !named}>
                {made.length === 1 ? 'Keep the land pattern' : `Keep the ${made.length} land patterns`}
              </Button>
            </form>
          )}
          <Trouble error={keep.error} />
          {kept.length > 0 && (
            <p className="text-sm">
              ✓ In the library:{' '}
              {kept.map((m) => (
                <Link key={m.id} className="mr-2 underline" to={`/models/${m.id}`}>
                  {m.name}
                </Link>
              ))}
            </p>
          )}
        </div>
        <div className="space-y-3">
          {made.length === 0 || tried.error ? (
            <Empty title="Nothing to see yet">
              {from === 'figures'
                ? 'Fill in the figures as the package drawing gives them; a dimension with its limits as 5.8 .. 6.2, 6 ± 0.2 or 6 +0.2/-0.1.'
                : 'Paste a table with headings: number, x, y and width are needed.'}
            </Empty>
          ) : (
            made.map((m) => (
              <Panel key={m.density + m.name} title={m.name || 'As it will be'}>
                <img
                  className="mx-auto max-h-[26rem] max-w-full"
                  alt={`Land pattern with ${m.landPattern?.pads.length} pads`}
                  src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(m.svg)}`}
                />
                {m.workings.length > 0 && (
                  <table className="mt-2 text-sm">
                    <tbody>
                      {m.workings.map((w) => (
                        <tr key={w.what}>
                          <th scope="row" className="pr-4 text-left font-normal text-soft">
                            {w.what}
                          </th>
                          <td className="text-right tabular-nums">{w.value} mm</td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                )}
                {m.findings.map((f) => (
                  <p key={f.cause} className="mt-1 flex gap-2 text-sm">
                    <State of={f.severity} /> <span>{f.what}</span>
                  </p>
                ))}
              </Panel>
            ))
          )}
        </div>
      </div>
    </>
  );
}
