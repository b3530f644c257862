import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { api, based, take, type Schemas } from '../../api/client';
import { Button, Empty, Field, PageHead, Panel, Select, TextArea, Trouble } from '../../ui/kit';
import { useMay } from '../people';
import { Reading, type Choice } from './PinReading';
import { ModelTabs } from './ModelList';
import { TableFile } from './TableFile';
import { useDeed, type Model } from './queries';

type Pin = Schemas['ModelListedPin'];
const types = [
  'input',
  'output',
  'bidirectional',
  'passive',
  'power in',
  'power out',
  'open collector',
  'open emitter',
  'tri-state',
  'not connected',
];

/** A symbol from a pin table, seen while the table is edited; or one of the library laid out anew. */
export function SymbolMaker() {
  const [params] = useSearchParams();
  const id = params.get('model') ?? '';
  const model = useQuery({
    queryKey: ['model', id],
    queryFn: () => take(api.GET('/api/v1/models/{id}', { params: { path: { id } } })),
    enabled: !!id,
  });
  if (id && !model.data) return <Empty title="One moment…" />;
  return <Maker key={id} was={model.data} />;
}

function Maker({ was }: { was?: Model }) {
  const earlier = (was?.draft ?? was?.released)?.symbol;
  const may = useMay();
  const navigate = useNavigate();
  const [name, setName] = useState(was?.name ?? '');
  const [text, setText] = useState('');
  const [file, setFile] = useState('');
  const [arriving, setArriving] = useState(false);
  const [pins, setPins] = useState<Pin[] | undefined>(
    earlier?.pins.map((p) => ({ number: p.number, name: p.name, type: p.type, unit: p.unit ? earlier.units?.[p.unit - 1] : '' })),
  );
  const [layout, setLayout] = useState<Schemas['ModelLayout']>({ order: 'function', byUnit: (earlier?.units?.length ?? 0) > 1 });
  const [choice, setChoice] = useState<Choice>({});
  const [note, setNote] = useState('made from the pin table');
  const night = document.documentElement.dataset.theme === 'dark';
  const typed = JSON.stringify(
    pins ? { pins, layout, earlier } : file ? { file, layout, earlier, ...choice } : { text, layout, earlier, ...choice },
  );
  const trial = (asked: string) => ({
    queryKey: ['symbol-try', asked, night],
    queryFn: () =>
      take(
        api.POST('/api/v1/symbol-tries', {
          body: { ...(JSON.parse(asked) as Schemas['SymbolTry']), name, theme: night ? 'night' : 'day' },
        }),
      ),
    retry: false,
  });
  const tried = useQuery({
    ...trial(useDeferredValue(typed)),
    enabled: text.trim() !== '' || file !== '' || !!pins,
    placeholderData: (before) => before,
  });
  const held = useQueryClient();
  const list = pins ?? tried.data?.pins ?? [];
  const keep = useDeed(
    async () => {
      // What is drawn may be a keystroke behind the table: what is kept is what it says.
      const { symbol } = await held.fetchQuery({ ...trial(typed), staleTime: Infinity });
      const body = { kind: 'symbol' as const, name, symbol };
      const m = was
        ? await take(api.PUT('/api/v1/models/{id}/draft', { params: { path: { id: was.id }, header: based(was.version) }, body }))
        : await take(api.POST('/api/v1/models', { body }));
      if (!note || !may('model.release')) return m;
      return take(
        api.POST('/api/v1/models/{id}/release', {
          params: { path: { id: m.id }, header: { 'If-Match': `"${m.version}"` } },
          body: { note },
        }),
      );
    },
    (m) => void navigate(`/models/${m.id}`),
  );
  const put = (i: number, p: Partial<Pin>) => setPins(list.map((old, k) => (k === i ? { ...old, ...p } : old)));
  return (
    <>
      <PageHead
        title={was ? `Lay out ${was.name} anew` : 'Make a symbol'}
        sub={was ? 'Pins that were placed by hand stay where they are' : 'From a pin table: paste it, or choose a CSV, XLSX or IBIS file'}
      />
      <ModelTabs at="/models/make-symbol" />
      <div className="grid min-h-0 flex-1 gap-3 overflow-auto p-4 lg:grid-cols-2">
        <div className="space-y-3">
          <Panel title="Pin table">
            <div className="space-y-2">
              <TextArea
                label="Pins, as pasted"
                rows={4}
                placeholder={'Pin\tName\tType\tUnit\n1\tVDD\tpower\n2\tOUT\toutput'}
                value={text}
                onChange={(e) => {
                  setText(e.target.value);
                  setPins(undefined);
                  setFile('');
                  setChoice({});
                }}
              />
              <TableFile
                onFile={(hash) => {
                  setArriving(hash === undefined); // nothing is kept of the table that was there before
                  setPins(undefined);
                  setChoice({});
                  setFile(hash ?? '');
                }}
              />
              <div className="flex flex-wrap items-end gap-3">
                <Select
                  label="Layout"
                  value={layout.order ?? 'function'}
                  onChange={(e) => setLayout({ ...layout, order: e.target.value as 'function' })}
                >
                  <option value="function">by function</option>
                  <option value="number">by number</option>
                </Select>
                <label className="flex gap-2 pb-1 text-sm">
                  <input
                    type="checkbox"
                    checked={!!layout.oneSide}
                    onChange={(e) => setLayout({ ...layout, oneSide: e.target.checked, order: e.target.checked ? 'number' : 'function' })}
                  />
                  all on one side
                </label>
                <label className="flex gap-2 pb-1 text-sm">
                  <input type="checkbox" checked={!!layout.byUnit} onChange={(e) => setLayout({ ...layout, byUnit: e.target.checked })} />a
                  unit for each group
                </label>
              </div>
            </div>
          </Panel>
          {!pins && tried.data && <Reading r={tried.data} choice={choice} onChoose={setChoice} />}
          <Trouble error={tried.error} />
          {tried.data?.wrong.map((w) => (
            <p key={w} className="text-sm text-amber">
              ▲ {w}
            </p>
          ))}
          {list.length > 0 && (
            <Panel title={`${list.length} pins`}>
              <div className="max-h-96 overflow-auto">
                <table className="w-full text-sm">
                  <thead className="sticky top-0 bg-sheet text-left text-xs text-soft">
                    <tr>
                      <th className="py-1">Pin</th>
                      <th>Name</th>
                      <th>Type</th>
                      <th>Side</th>
                      <th>Group</th>
                    </tr>
                  </thead>
                  <tbody>
                    {list.map((p, i) => (
                      <tr key={i} className="border-t border-line/60">
                        <td className="pr-2 font-semibold">{p.number}</td>
                        <td className="pr-2">
                          <input
                            aria-label={`Name of pin ${p.number}`}
                            className="w-full rounded border border-line bg-sheet px-1"
                            value={p.name ?? ''}
                            onChange={(e) => put(i, { name: e.target.value })}
                          />
                        </td>
                        <td className="pr-2">
                          <select
                            aria-label={`Type of pin ${p.number}`}
                            className="rounded border border-line bg-sheet"
                            value={p.type ?? ''}
                            onChange={(e) => put(i, { type: e.target.value })}
                          >
                            <option value="">open</option>
                            {types.map((t) => (
                              <option key={t}>{t}</option>
                            ))}
                          </select>
                        </td>
                        <td className="pr-2">
                          <select
                            aria-label={`Side of pin ${p.number}`}
                            className="rounded border border-line bg-sheet"
                            value={p.side ?? ''}
                            onChange={(e) => put(i, { side: e.target.value })}
                          >
                            <option value="">by function</option>
                            {['left', 'right', 'top', 'bottom'].map((t) => (
                              <option key={t}>{t}</option>
                            ))}
                          </select>
                        </td>
                        <td>{p.unit}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
            </Panel>
          )}
        </div>
        <div className="space-y-3">
          {tried.data?.symbol ? (
            <Panel title="As it will be">
              <img
                className="mx-auto max-h-[70vh]"
                alt={`Symbol with ${list.length} pins`}
                src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(tried.data.svg)}`}
              />
            </Panel>
          ) : (
            <Empty title="No pins yet">The first row names the columns: number and name are needed, type and group help.</Empty>
          )}
          {tried.data && may('model.edit') && (
            <form
              className="flex flex-wrap items-end gap-3"
              onSubmit={(e) => {
                e.preventDefault();
                keep.mutate(undefined);
              }}
            >
              <Field label="Name of the symbol" required maxLength={100} value={name} onChange={(e) => setName(e.target.value)} />
              {may('model.release') && (
                <Field label="Release note" placeholder="blank leaves a draft" value={note} onChange={(e) => setNote(e.target.value)} />
              )}
              <Button look="act" type="submit" disabled={keep.isPending || arriving}>
                Keep the symbol
              </Button>
            </form>
          )}
          <Trouble error={keep.error} />
        </div>
      </div>
    </>
  );
}
