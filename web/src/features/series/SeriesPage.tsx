import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { upload } from '../../api/client';
import { Asked } from '../../ui/asked';
import { Button, Chip, Dialog, Empty, Field, PageHead, Panel, Trouble } from '../../ui/kit';
import { Looked } from '../../ui/looked';
import { Talk } from '../comments';
import { useMay } from '../people';
import { Members, numbersOf } from './SeriesListPage';
import { useChangeSeries, useSeries, type Said, type Series } from './queries';

export function SeriesPage() {
  const { key = '' } = useParams();
  const series = useSeries(key);
  return <Asked of={series}>{(s) => <One key={s.id} s={s} />}</Asked>;
}

function One({ s }: { s: Series }) {
  const may = useMay();
  const change = useChangeSeries(s);
  const [open, setOpen] = useState<'edit' | 'add'>();
  const [uploading, setUploading] = useState<Error>();
  const sheets = s.said.datasheets ?? [];
  const set = (more: Partial<Said>) => change.mutate({ ...s.said, ...more });
  return (
    <>
      <Looked kind="series" id={s.id} number={s.number} what={`${s.total} parts`} />
      <PageHead
        title={
          <>
            {s.said.name} <span className="font-normal text-soft">{s.said.manufacturer}</span>
          </>
        }
        sub={`${s.said.members?.length ?? 0} part numbers · ${s.total === 1 ? '1 part' : `${s.total} parts`} of the library`}
      >
        {may('part.edit') && (
          <>
            <Button onClick={() => setOpen('edit')}>Edit…</Button>
            <Button look="act" onClick={() => setOpen('add')}>
              Add part numbers…
            </Button>
          </>
        )}
      </PageHead>
      <div className="grid min-h-0 flex-1 content-start gap-3 overflow-auto p-4 xl:grid-cols-[3fr_2fr]">
        <div className="space-y-3">
          <Trouble error={change.error} />
          <Panel title="Parts">
            {s.parts.length === 0 ? (
              <Empty title="No part of the library is of it yet" />
            ) : (
              <table className="w-full text-sm">
                <thead>
                  <tr className="text-left text-xs text-soft">
                    <th className="py-1 pr-3">Part</th>
                    <th className="pr-3">MPN</th>
                    <th className="pr-3">Description</th>
                    <th />
                  </tr>
                </thead>
                <tbody>
                  {s.parts.map((p) => (
                    <tr key={p.id} className="border-t border-line/60">
                      <td className="py-1 pr-3">
                        <Link className="font-semibold underline" to={`/parts/${encodeURIComponent(p.number)}`}>
                          {p.number}
                        </Link>
                      </td>
                      <td className="pr-3">{p.mpn}</td>
                      <td className="pr-3">{p.description}</td>
                      <td className="flex items-center justify-end gap-2">
                        {p.flag && <Chip tone="open">{p.flag}</Chip>}
                        {p.draft && <Chip>draft</Chip>}
                        {may('part.edit') && (
                          <Button
                            look="quiet"
                            aria-label={`Take ${p.mpn} out`}
                            disabled={change.isPending}
                            onClick={() => set({ members: s.said.members?.filter((m) => m !== p.mpn) })}
                          >
                            Take out
                          </Button>
                        )}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
            {s.total > s.parts.length && <p className="mt-1 text-sm text-soft">The first {s.parts.length} are shown.</p>}
            {s.absent.length > 0 && (
              <p className="mt-2 text-sm">
                <span className="text-soft">Not in the library: </span>
                {s.absent.slice(0, 50).join(', ')}
                {s.absent.length > 50 && ` and ${s.absent.length - 50} more`}
              </p>
            )}
          </Panel>
        </div>
        <div className="space-y-3">
          <Panel title="Datasheets">
            {sheets.length === 0 && (
              <p className="text-sm text-soft">None attached. What is attached here, all parts of the series have.</p>
            )}
            <ul className="mb-2 text-sm">
              {sheets.map((d) => (
                <li key={d.hash} className="flex items-center justify-between gap-2">
                  <a className="underline" href={`/api/v1/files/${d.hash}?name=${encodeURIComponent(d.name)}`} download={d.name}>
                    {d.name}
                  </a>
                  {may('part.edit') && (
                    <Button look="quiet" onClick={() => set({ datasheets: sheets.filter((x) => x.hash !== d.hash) })}>
                      Detach
                    </Button>
                  )}
                </li>
              ))}
            </ul>
            {may('part.edit') && (
              <label className="text-sm">
                <span className="mb-0.5 block text-xs font-semibold text-soft">Attach a file</span>
                <input
                  type="file"
                  onChange={(e) => {
                    const file = e.target.files?.[0];
                    if (!file) return;
                    setUploading(undefined);
                    upload(file).then((f) => set({ datasheets: [...sheets, { hash: f.hash, name: f.name }] }), setUploading);
                  }}
                />
              </label>
            )}
            <Trouble error={uploading} />
          </Panel>
          {s.said.note && (
            <Panel title="Note">
              <p className="text-sm whitespace-pre-wrap">{s.said.note}</p>
            </Panel>
          )}
          <Talk id={s.id} />
        </div>
      </div>
      {open === 'add' && <AddDialog s={s} onClose={() => setOpen(undefined)} />}
      {open === 'edit' && <EditDialog s={s} onClose={() => setOpen(undefined)} />}
    </>
  );
}

function AddDialog({ s, onClose }: { s: Series; onClose: () => void }) {
  const change = useChangeSeries(s);
  const [text, setText] = useState('');
  return (
    <Dialog open title={`Add part numbers to ${s.said.name}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate({ ...s.said, members: [...(s.said.members ?? []), ...numbersOf(text)] }, { onSuccess: onClose });
        }}
      >
        <Members value={text} onChange={setText} />
        <Trouble error={change.error} />
        <Button look="act" type="submit" disabled={change.isPending || numbersOf(text).length === 0}>
          Add {numbersOf(text).length}
        </Button>
      </form>
    </Dialog>
  );
}

function EditDialog({ s, onClose }: { s: Series; onClose: () => void }) {
  const change = useChangeSeries(s);
  const [name, setName] = useState(s.said.name);
  const [note, setNote] = useState(s.said.note ?? '');
  return (
    <Dialog open title={`Edit ${s.number}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate({ ...s.said, name, note }, { onSuccess: onClose });
        }}
      >
        <Field label="Name" required maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />
        <Field label="Note" maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
        <Trouble error={change.error} />
        <Button look="act" type="submit" disabled={change.isPending}>
          Keep it
        </Button>
      </form>
    </Dialog>
  );
}
