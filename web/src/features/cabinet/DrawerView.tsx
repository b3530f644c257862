import { useState } from 'react';
import { Link } from 'react-router';
import { Button, Chip, Menu, Panel, Trouble } from '../../ui/kit';
import { ScrollList } from '../../ui/scroll';
import { WatchButton } from '../notices';
import { useMay } from '../people';
import { MoveDialog, ParameterDialog, Confirm } from './ChangeDialog';
import { AddDrawer, AddParameter, RebuildDescriptions } from './AddDialogs';
import { EditDrawer } from './EditDrawer';
import { useDrawerUse, useHistory, type Cabinet, type Drawer } from './queries';

/** One drawer: what it says, its template with what it inherits, how complete its parts are, what uses it. */
export function DrawerView({ cabinet, drawer }: { cabinet: Cabinet; drawer: Drawer }) {
  const may = useMay();
  const [open, setOpen] = useState<'edit' | 'move' | 'rebuild' | 'drawer' | 'parameter'>();
  const [parameter, setParameter] = useState('');
  const label = (k: string) => cabinet.document.parameters.find((p) => p.key === k)?.label ?? k;
  const labels = (keys: string[]) => keys.map(label).join(', ');
  const owner = (key: string) => cabinet.drawers.find((d) => d.key === key)?.label ?? key;
  const models = [
    drawer.models.symbol,
    drawer.models.landPattern,
    drawer.models.body,
    ...Object.entries(drawer.models.landPatterns ?? {}).map(([k, v]) => `${k}: ${v}`),
  ].filter(Boolean);
  return (
    <div className="min-h-0 space-y-3 overflow-auto p-4">
      <div className="grid items-start gap-3 xl:grid-cols-2">
        <Panel
          title={drawer.label}
          actions={
            <>
              <WatchButton of="drawer" about={drawer.key} name={drawer.label} />
              {drawer.leaf && (
                <Link className="self-center text-sm underline" to={`/parts?drawer=${drawer.key}`}>
                  {drawer.parts} parts
                </Link>
              )}
              {may('cabinet.apply') && (
                <>
                  <Menu
                    label="More"
                    items={[
                      ...(drawer.parts > 0 ? [{ text: 'Move parts…', onSelect: () => setOpen('move') }] : []),
                      { text: 'Build descriptions anew…', onSelect: () => setOpen('rebuild') },
                      { text: 'Add a drawer…', onSelect: () => setOpen('drawer') },
                      { text: 'Add a parameter…', onSelect: () => setOpen('parameter') },
                    ]}
                  />
                  <Button onClick={() => setOpen('edit')}>Edit…</Button>
                </>
              )}
            </>
          }
        >
          <dl className="grid grid-cols-[10rem_1fr] gap-y-1 text-sm">
            {[
              ['Key', drawer.key],
              ['Lies in', drawer.path.slice(0, -1).map(owner).join(' / ') || 'the cabinet itself'],
              ['Class', drawer.class],
              [
                'Part numbers',
                drawer.prefix ? `${drawer.prefix}-${'0'.repeat(Math.max(0, drawer.digits - 1))}1` : 'none: a drawer inside gives them',
              ],
              ['Designator', drawer.designator],
              ['Leading parameter', label(drawer.leading)],
              ['Description', drawer.description],
              ['Name', drawer.name],
              ['Identified by', labels(drawer.identity)],
              ['Columns', labels(drawer.columns)],
              ['On a drawing', labels(drawer.drawing)],
              ['Changed by a designer', labels(drawer.designer)],
              ['Search words', drawer.search.join(', ')],
              ['Default models', models.join(', ')],
            ].map(
              ([k, v]) =>
                v && (
                  <div key={k} className="contents">
                    <dt className="text-soft">{k}</dt>
                    <dd className={k === 'Description' || k === 'Name' ? 'font-mono text-xs' : ''}>{v}</dd>
                  </div>
                ),
            )}
          </dl>
        </Panel>
        <Completeness drawer={drawer} />
      </div>
      <Panel title="Template">
        <table className="w-full text-sm">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th className="py-1">Parameter</th>
              <th>Type</th>
              <th>Unit</th>
              <th />
              <th>From</th>
              <th>Choices</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {drawer.slots.map((s) => (
              <tr key={s.key} className="border-t border-line/60">
                <th scope="row" className="py-1 pr-2 text-left font-medium" title={s.synonyms.join(', ')}>
                  {s.label} {s.key === drawer.leading && <Chip tone="plain">leading</Chip>}
                </th>
                <td className="pr-2">{s.of ?? s.type}</td>
                <td className="pr-2">{s.show ?? s.unit}</td>
                <td className="pr-2">
                  {s.required && <Chip tone="open">required</Chip>} {s.byHand && <Chip>by hand</Chip>}
                  {s.default && <Chip>default {s.default}</Chip>}
                </td>
                <td className={`pr-2 whitespace-nowrap ${s.inherited ? 'text-soft' : 'font-semibold'}`}>
                  {s.inherited ? `↑ ${owner(s.from)}` : 'here'}
                  {s.narrowed && s.narrowed !== s.from && <span className="block text-xs">narrowed in {owner(s.narrowed)}</span>}
                </td>
                <td className="text-xs">{s.choices.join(', ')}</td>
                <td>
                  {may('cabinet.apply') && (
                    <Button look="quiet" className="min-h-6 px-1 py-0" aria-label={`Change ${s.label}`} onClick={() => setParameter(s.key)}>
                      change…
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Panel>
      <History />
      {open === 'rebuild' && <RebuildDescriptions drawer={drawer} onClose={() => setOpen(undefined)} />}
      {open === 'drawer' && <AddDrawer cabinet={cabinet} inside={drawer} onClose={() => setOpen(undefined)} />}
      {open === 'parameter' && <AddParameter cabinet={cabinet} onClose={() => setOpen(undefined)} />}
      {open === 'edit' && <EditDrawer cabinet={cabinet} drawer={drawer} onClose={() => setOpen(undefined)} />}
      {open === 'move' && <MoveDialog cabinet={cabinet} drawer={drawer} onClose={() => setOpen(undefined)} />}
      {parameter && <ParameterDialog cabinet={cabinet} drawer={drawer} parameter={parameter} onClose={() => setParameter('')} />}
    </div>
  );
}

/** How complete the drawer's parts are, as bars that people can look at and numbers they can read. */
function Completeness({ drawer }: { drawer: Drawer }) {
  const use = useDrawerUse(drawer.key);
  const u = use.data;
  return (
    <Panel title="How complete its parts are">
      <Trouble error={use.error} />
      {u && (
        <>
          <p className="mb-2 text-sm">
            {u.parts === 0 ? (
              <span className="text-soft">No parts yet.</span>
            ) : u.incomplete === 0 ? (
              <Chip tone="good">all {u.parts} parts have every required value</Chip>
            ) : (
              <>
                <Chip tone="bad">
                  {u.incomplete} of {u.parts} lack a required value
                </Chip>{' '}
                <Link className="underline" to={`/parts?drawer=${drawer.key}&q=incomplete`}>
                  show them
                </Link>
              </>
            )}
          </p>
          {u.parts > 0 && (
            <table className="w-full text-sm">
              <caption className="sr-only">Parts with a value, by parameter</caption>
              <tbody>
                {u.filled.map((f) => {
                  const share = Math.round((100 * f.parts) / u.parts);
                  return (
                    <tr key={f.key}>
                      <th scope="row" className="w-44 truncate py-0.5 pr-2 text-left font-normal">
                        {f.label}
                        {f.required && <span className="text-amber"> *</span>}
                      </th>
                      <td>
                        <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-2.5 w-full" aria-hidden="true">
                          <rect width="100" height="8" className="fill-tint" />
                          <rect width={share} height="8" className={f.required && f.parts < u.parts ? 'fill-rust' : 'fill-water'} />
                        </svg>
                      </td>
                      <td className="w-24 pl-2 text-right">
                        {f.parts} · {share} %
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          )}
          {u.crosswalks.length > 0 && <p className="mt-2 text-sm text-soft">Filled by the crosswalks of {u.crosswalks.join(', ')}</p>}
        </>
      )}
    </Panel>
  );
}

function History() {
  const history = useHistory();
  const may = useMay();
  const [undoing, setUndoing] = useState(false);
  const last = history.data?.items[0];
  return (
    <Panel
      title="Changes of the cabinet"
      actions={
        may('cabinet.apply') && last && last.reverse.length > 0 && <Button onClick={() => setUndoing(!undoing)}>Take the last back…</Button>
      }
    >
      {undoing && last && (
        <div className="mb-3 rounded border border-line p-2">
          <Confirm change={{ steps: last.reverse, note: `took back: ${last.note}` }} said="Taken back:" onDone={() => setUndoing(false)}>
            <p className="text-sm">Takes back: {last.note}</p>
          </Confirm>
        </div>
      )}
      <ScrollList as="ol" className="max-h-48 space-y-1 text-sm">
        {history.data?.items.map((r) => (
          <li key={r.revision}>
            <strong>{r.revision}</strong> {r.note}
            <span className="text-xs text-soft">
              {' '}
              · {r.parts} parts · {r.by}, {new Date(r.at).toLocaleString()}
            </span>
          </li>
        ))}
      </ScrollList>
    </Panel>
  );
}
