import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { upload } from '../../api/client';
import { useAct } from '../../api/write';
import { Asked } from '../../ui/asked';
import { Button, Chip, Empty, Field, PageHead, TextArea, Trouble } from '../../ui/kit';
import { ScrollArea } from '../../ui/scroll';
import { DataTable, type Column } from '../../ui/table';
import { useSay } from '../../ui/toast';
import { Offer, useTyped } from '../../ui/unsaved';
import { useMay } from '../people';
import { age, useApplyConnection, useConnection, useConnections, useTryConnection, useUploadList, type Connection } from './queries';

const kinds: Record<string, string> = { asked: 'asked live', list: 'price list, fetched', uploaded: 'price list, uploaded' };

const columns: Column<Connection>[] = [
  { key: 'supplier', head: 'Supplier', width: 220, grow: true, cell: (c) => <span className="font-semibold">{c.supplier}</span> },
  { key: 'kind', head: 'Kind', width: 150, cell: (c) => kinds[c.kind] ?? c.kind },
  { key: 'crosswalk', head: 'Crosswalk', width: 100, cell: (c) => (c.mapped ? 'there' : 'none yet') },
  { key: 'used', head: 'Used today', width: 120, align: 'right', cell: (c) => c.usedToday.toLocaleString('en') + (c.perDay ? ` of ${c.perDay.toLocaleString('en')}` : '') },
  { key: 'last', head: 'Last answer', width: 230, grow: true, cell: (c) => <Last of={c} /> },
  { key: 'secret', head: 'Secret', width: 190, cell: (c) => (c.secret ? c.secretAbsent ? <Chip tone="bad">{c.secret}, missing</Chip> : c.secret : 'needs none') },
]; // prettier-ignore

function Last({ of: c }: { of: Connection }) {
  if (c.list) return <>list of {new Date(c.list.at).toLocaleDateString()}</>;
  if (!c.last) return <span className="text-soft">none yet</span>;
  return (
    <span title={c.last.problem}>
      {age(c.last.at)}
      {c.last.problem && <Chip tone="bad">{c.last.problem}</Chip>}
      {!c.last.problem && c.missed && <Chip tone="open">{c.missed}</Chip>}
    </span>
  );
}

/** How suppliers are asked, for administrators: documents, tried before they are kept. */
export function ConnectionsPage() {
  const list = useConnections();
  const may = useMay();
  const [params, setParams] = useSearchParams();
  const chosen = params.get('of') ?? undefined;
  return (
    <>
      <PageHead
        title="Connections"
        sub="How each supplier is asked, and how its answers are read. Secrets are only named here; they are in the service’s settings."
      >
        {may('connection.apply') && (
          <Button look="act" onClick={() => setParams({ of: 'new' })}>
            New connection…
          </Button>
        )}
      </PageHead>
      <div className="grid min-h-0 flex-1 grid-cols-1 grid-rows-[minmax(9rem,1fr)_auto]">
        <div className="flex min-h-0 flex-col">
          <Asked of={list}>
            {(l) => (
              <DataTable
                label="Connections"
                rows={l.items}
                columns={columns}
                rowKey={(c) => c.id}
                onOpen={(c) => setParams({ of: c.supplier })}
                empty={
                  <Empty title="No connections yet">
                    A connection says how a supplier is asked. docs/connections.md has one worked out, line by line.
                  </Empty>
                }
              />
            )}
          </Asked>
        </div>
        {chosen && <Chosen key={chosen} supplier={chosen} onClose={() => setParams({})} />}
      </div>
    </>
  );
}

function Chosen({ supplier, onClose }: { supplier: string; onClose: () => void }) {
  const one = useConnection(supplier === 'new' ? undefined : supplier);
  if (supplier === 'new') return <Editor version={0} text="" onClose={onClose} />;
  return (
    <div className="min-h-0 overflow-auto border-t border-line">
      <Asked of={one}>{(c) => <Editor version={c.version} text={c.text ?? ''} of={c} onClose={onClose} />}</Asked>
    </div>
  );
}

function Editor({ version, text, of, onClose }: { version: number; text: string; of?: Connection; onClose: () => void }) {
  const may = useMay();
  const say = useSay();
  // It begins with what was looked at, and stays with that whatever others keep meanwhile.
  const [base, setBase] = useState({ version, text });
  const { kept, typed, settled, leaving } = useTyped<string>(`connection ${of?.supplier ?? 'new'}`, base.version);
  const [doc, setDoc] = useState(text);
  const [words, setWords] = useState('4k7 0805');
  const apply = useApplyConnection(base.version);
  const attempt = useTryConnection();
  const edit = (t: string) => {
    setDoc(t);
    typed(t === base.text ? undefined : t);
  };
  const t = attempt.data;
  return (
    <ScrollArea
      label={of ? `Connection to ${of.supplier}` : 'New connection'}
      className="max-h-[60vh] overflow-auto border-t border-line p-4"
    >
      <div className="grid grid-cols-1 gap-4 xl:grid-cols-2">
        <div className="space-y-2">
          <Offer
            kept={kept}
            version={base.version}
            what={of ? `the connection to ${of.supplier}` : 'a new connection'}
            onDrop={settled}
            onTake={(k) => edit(k.value)}
          />
          {leaving}
          <TextArea
            label={of ? `Connection to ${of.supplier}, revision ${of.revision}` : 'New connection, as YAML'}
            rows={18}
            value={doc}
            readOnly={!may('connection.apply')}
            onChange={(e) => edit(e.target.value)}
          />
          <Trouble error={apply.error} />
          <p className="flex flex-wrap items-end gap-2">
            {may('connection.apply') && (
              <Button
                look="act"
                disabled={apply.isPending || doc.trim() === ''}
                onClick={() =>
                  apply.mutate(doc, {
                    onSuccess: (c) => {
                      settled();
                      setBase({ version: c.version, text: doc });
                      say(`The connection to ${c.supplier} is kept, revision ${c.revision}.`);
                    },
                  })
                }
              >
                Keep it
              </Button>
            )}
            <Button
              look="quiet"
              onClick={() => {
                settled();
                onClose();
              }}
            >
              Close
            </Button>
          </p>
          {of && of.kind !== 'asked' && may('rates.apply') && <UploadList of={of} />}
        </div>
        {may('connection.apply') && (
          <form
            className="space-y-2 text-sm"
            onSubmit={(e) => {
              e.preventDefault();
              attempt.mutate({ text: doc, words });
            }}
          >
            <div className="flex items-end gap-2">
              <Field label="Trial question" value={words} onChange={(e) => setWords(e.target.value)} />
              <Button type="submit" disabled={attempt.isPending}>
                Try it
              </Button>
            </div>
            <Trouble error={attempt.error} />
            {t && (
              <div className="space-y-2" role="status">
                {t.asked && <p className="font-mono text-xs break-all">{t.asked}</p>}
                {t.problem && (
                  <p>
                    <Chip tone="bad">no answer</Chip> {t.problem}
                  </p>
                )}
                <p>
                  {t.bytes.toLocaleString('en')} bytes, {t.products} products.
                </p>
                <Found
                  rows={t.places.map((p) => [p.place, p.path, p.found ? String(p.found) : 'nowhere'])}
                  heads={['What', 'Where', 'Found']}
                />
                <Found
                  rows={t.fields.map((f) => [f.name, f.example, f.to ? f.to + (f.why ? ` (${f.why})` : '') : 'not read'])}
                  heads={['Field', 'Such as', 'Becomes']}
                />
              </div>
            )}
          </form>
        )}
      </div>
    </ScrollArea>
  );
}

function Found({ heads, rows }: { heads: string[]; rows: string[][] }) {
  if (rows.length === 0) return null;
  return (
    <table className="w-full text-xs">
      <thead>
        <tr className="text-left text-soft">
          {heads.map((h) => (
            <th key={h} className="pr-3">
              {h}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.join('|')} className="border-t border-line/60">
            {r.map((cell, i) => (
              <td key={i} className="max-w-64 truncate pr-3" title={cell}>
                {cell}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function UploadList({ of }: { of: Connection }) {
  const keep = useUploadList(of.supplier);
  const say = useSay();
  const send = useAct({ mutationFn: upload });
  return (
    <div className="text-sm">
      <label className="block">
        <span className="mb-0.5 block text-xs font-semibold text-soft">Upload a price list</span>
        <input
          type="file"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file)
              send.mutate(file, {
                onSuccess: (f) =>
                  keep.mutate(
                    { hash: f.hash, name: f.name },
                    { onSuccess: () => say(`${f.name} is the price list of ${of.supplier} now.`) },
                  ),
              });
          }}
        />
      </label>
      <Trouble error={send.error ?? keep.error} />
    </div>
  );
}
