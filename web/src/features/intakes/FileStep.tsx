import { useState } from 'react';
import { Link } from 'react-router';
import { Button, Field, Panel, Select, Trouble } from '../../ui/kit';
import { useMay } from '../people';
import { layoutWords } from './words';
import { EditTrouble } from './EditTrouble';
import { useEditIntake, useIntakeDeeds, type Intake } from './queries';

/** What the file is: how it was read, and the ways to read it otherwise. */
export function FileStep({ intake: i }: { intake: Intake }) {
  const edit = useEditIntake(i.id);
  const deeds = useIntakeDeeds(i.id);
  const may = useMay();
  const l = i.layout ?? {};
  const [want, setWant] = useState({
    encoding: '',
    delimiter: '',
    sheet: l.sheet ?? '',
    inside: l.inside ?? '',
    headerRow: String(l.headerRow ?? ''),
  });
  const set = (change: Partial<typeof want>) => setWant({ ...want, ...change });
  return (
    <div className="grid gap-3 overflow-auto p-4 lg:grid-cols-[24rem_1fr]">
      <div className="space-y-3">
        <Panel title="How it was read">
          <p className="text-sm">{layoutWords(l)}</p>
          {l.notes?.map((n) => (
            <p key={n} className="mt-1 text-sm text-soft">
              {n}
            </p>
          ))}
          {may('intake.edit') && (
            <form
              className="mt-3 space-y-2"
              onSubmit={(e) => {
                e.preventDefault();
                const { headerRow, ...rest } = want;
                edit.mutate({
                  version: i.version,
                  body: {
                    layout: {
                      ...rest,
                      delimiter: want.delimiter === 'tab' ? '\t' : want.delimiter,
                      headerRow: Number(headerRow) || undefined,
                    },
                  },
                });
              }}
            >
              {(l.files?.length ?? 0) > 1 && (
                <Select label="File in the archive" value={want.inside} onChange={(e) => set({ inside: e.target.value })}>
                  {l.files?.map((f) => (
                    <option key={f}>{f}</option>
                  ))}
                </Select>
              )}
              {(l.sheets?.length ?? 0) > 1 && (
                <Select label="Sheet" value={want.sheet} onChange={(e) => set({ sheet: e.target.value })}>
                  {l.sheets?.map((s) => (
                    <option key={s}>{s}</option>
                  ))}
                </Select>
              )}
              {l.format === 'csv' && (
                <>
                  <Select label="Delimiter" value={want.delimiter} onChange={(e) => set({ delimiter: e.target.value })}>
                    <option value="">found out ({l.delimiter === '\t' ? 'tab' : l.delimiter})</option>
                    {[';', ',', 'tab', '|'].map((d) => (
                      <option key={d}>{d}</option>
                    ))}
                  </Select>
                  <Field
                    label="Encoding"
                    placeholder={`found out (${l.encoding})`}
                    hint="such as utf-8, windows-1252, iso-8859-2"
                    value={want.encoding}
                    onChange={(e) => set({ encoding: e.target.value })}
                  />
                </>
              )}
              {l.format !== 'json' && (
                <Field
                  label="Header in row"
                  type="number"
                  min={1}
                  value={want.headerRow}
                  onChange={(e) => set({ headerRow: e.target.value })}
                />
              )}
              <EditTrouble intake={i} edit={edit} />
              <Button type="submit" disabled={edit.isPending}>
                Read it so
              </Button>
              <p className="text-xs text-soft">The next file of {i.supplier} is read the same way where that fits.</p>
            </form>
          )}
        </Panel>
        <Panel title="How it is mapped">
          <p className="text-sm">
            By the crosswalk{' '}
            <Link className="underline" to={`/crosswalks?supplier=${encodeURIComponent(i.mapped)}&intake=${i.id}`}>
              {i.mapped}
            </Link>
            {i.revision === 0 && ', which begins with this file'}.
          </p>
          {i.others.length > 0 && (
            <>
              <p className="mt-1 text-xs text-soft">The supplier’s files have several layouts, told by their headings; each has its own.</p>
              {may('intake.edit') && (
                <Select
                  label="Map it by another"
                  value=""
                  disabled={edit.isPending}
                  onChange={(e) => edit.mutate({ version: i.version, body: { mapped: e.target.value } })}
                >
                  <option value="">the one that the headings tell</option>
                  {i.others.map((o) => (
                    <option key={o}>{o}</option>
                  ))}
                </Select>
              )}
            </>
          )}
        </Panel>
        <Panel title="Datasheets">
          {i.links === 0 ? (
            <p className="text-sm text-soft">No field is mapped to the datasheet. Map one to fetch what it links to.</p>
          ) : (
            <div className="space-y-2 text-sm">
              <p>
                {i.linksDone} of {i.links} links were fetched, or found to be dead.
              </p>
              {may('intake.edit') && (
                <Button disabled={deeds.fetch.isPending} onClick={() => deeds.fetch.mutate()}>
                  Fetch the datasheets
                </Button>
              )}
              <Trouble error={deeds.fetch.error} />
            </div>
          )}
        </Panel>
      </div>
      <Panel title={`Fields (${i.fields.length})`}>
        <table className="w-full text-sm">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th className="pr-3 font-semibold">Field</th>
              <th className="font-semibold">Some of its texts</th>
            </tr>
          </thead>
          <tbody>
            {i.fields.map((f) => (
              <tr key={f} className="border-t border-line/60">
                <td className="py-0.5 pr-3 font-semibold whitespace-nowrap">{f}</td>
                <td className="max-w-0 truncate text-soft">{(i.samples[f] ?? []).join('  ·  ')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Panel>
    </div>
  );
}
