import { useId, useState } from 'react';
import type { Schemas } from '../../api/client';
import { Button, Dialog, Field, State, Trouble } from '../../ui/kit';
import { useMay } from '../people';
import { Preview } from './Preview';
import { useEditIntake, useRow, type Intake } from './queries';

/** One row: its cells as they came, to be corrected; what it becomes and why; how it is settled. */
export function RowDialog({
  intake: i,
  row,
  error,
  onClose,
  onChange,
}: {
  intake: Intake;
  row: number;
  error: unknown;
  onClose: () => void;
  onChange: (body: Schemas['IntakeEdit']) => void;
}) {
  const one = useRow(i.id, i.version, row);
  const may = useMay();
  const [why, setWhy] = useState('');
  const edit = useEditIntake(i.id); // of what holds everywhere: what goes wrong is said in its preview
  const [everywhere, setEverywhere] = useState<{ title: string; body: Schemas['IntakeEdit'] }>();
  const r = one.data;
  return (
    <Dialog open wide title={`Row ${row}: ${r?.mpn ?? ''}`} onClose={onClose}>
      <Trouble error={one.error ?? error} />
      {r && (
        <>
          <p className="mb-2 text-sm">
            <State of={r.state} /> {r.why} {r.description && <strong>{r.description}</strong>}{' '}
            {r.because && (
              <span className="text-soft">
                {r.drawer}: {r.because}
              </span>
            )}
          </p>
          <div className="grid gap-4 md:grid-cols-2">
            <table className="h-fit w-full text-sm">
              <caption className="text-left text-xs font-semibold text-soft">As it came; a cell can be corrected</caption>
              <tbody>
                {r.cells.map((c) => (
                  <Cell key={c.field + String(c.edited)} cell={c} may={may('intake.edit')} onSave={(v) => onChange({ cells: [{ row, field: c.field, ...v }] })} onEverywhere={(text) => setEverywhere({ title: `Wherever “${c.field}” says “${c.text}”: “${text}”`, body: { cells: [{ row, field: c.field, text, everywhere: true }] } })} />
                ))}
              </tbody>
            </table>
            <div className="space-y-3">
              <table className="w-full text-sm">
                <caption className="text-left text-xs font-semibold text-soft">What it becomes</caption>
                <tbody>
                  {Object.entries(r.values).map(([k, v]) => (
                    <tr key={k} className="border-t border-line/60 align-top">
                      <td className="py-0.5 pr-2 text-soft">{k}</td>
                      <td className="py-0.5 pr-2 font-semibold">{v}</td>
                      <td className="py-0.5 text-xs text-soft">{r.origins[k]}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {r.changes.length > 0 && (
                <ul className="text-sm">
                  {r.changes.map((c) => (
                    <li key={c.key}>
                      {c.key}: {c.old || 'blank'} → <strong>{c.new}</strong>
                    </li>
                  ))}
                </ul>
              )}
              <ul className="space-y-2 text-sm">
                {r.findings.map((f, n) => (
                  <li key={n}>
                    <State of={f.severity} /> {f.field && <strong>{f.field}: </strong>}
                    {f.what}
                    {f.waived && <span className="block text-xs text-soft">accepted: {f.waived}</span>}
                    {f.mend && !f.waived && <span className="block text-xs text-soft">{f.mend}</span>}
                  </li>
                ))}
              </ul>
              {may('intake.edit') && (
                <div className="flex flex-wrap items-end gap-2 border-t border-line pt-2">
                  <Button onClick={() => onChange({ leaveOut: [row] })}>Leave out</Button>
                  {r.mpn && (
                    <Button
                      onClick={() =>
                        setEverywhere({ title: `Leave ${r.mpn} out everywhere`, body: { leaveOut: [row], everywhere: true } })
                      }
                    >
                      Leave out everywhere…
                    </Button>
                  )}
                  <Button onClick={() => onChange({ takeBack: [row] })}>Take decisions back</Button>
                  <Field label="Keep as a part of its own, because" value={why} onChange={(e) => setWhy(e.target.value)} />
                  <Button disabled={!why} onClick={() => onChange({ rows: [row], decide: { as: 'separate', why } })}>
                    Keep separate
                  </Button>
                </div>
              )}
            </div>
          </div>
        </>
      )}
      {everywhere && <Preview intake={i} edit={edit} {...everywhere} onClose={() => setEverywhere(undefined)} />}
    </Dialog>
  ); // prettier-ignore
}

function Cell({
  cell: c,
  may,
  onSave,
  onEverywhere,
}: {
  cell: Schemas['Cell'];
  may: boolean;
  onSave: (v: { text: string; undo?: boolean }) => void;
  onEverywhere: (text: string) => void;
}) {
  const id = useId();
  const [text, setText] = useState(c.edited ? (c.corrected ?? '') : c.text);
  return (
    <tr className="border-t border-line/60">
      <td className="w-32 truncate py-0.5 pr-2 text-soft">
        <label htmlFor={id}>{c.field}</label>
      </td>
      <td>
        <form
          className="flex items-center gap-1"
          onSubmit={(e) => {
            e.preventDefault();
            onSave({ text });
          }}
        >
          <input
            id={id}
            readOnly={!may}
            className="w-full rounded border border-transparent bg-transparent px-1 py-0.5 hover:border-line focus:border-line"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          {may && text !== (c.edited ? c.corrected : c.text) && (
            <>
              <Button type="submit" look="act">
                Correct
              </Button>
              {c.text && text && (
                <Button look="quiet" aria-label={`Correct ${c.field} everywhere`} onClick={() => onEverywhere(text)}>
                  Everywhere…
                </Button>
              )}
            </>
          )}
          {may && c.edited && (
            <Button look="quiet" title={`As it came: ${c.text}`} onClick={() => onSave({ text: '', undo: true })}>
              Undo
            </Button>
          )}
        </form>
        {c.edited && (
          <p className="px-1 text-xs text-soft">
            {c.text ? `came as “${c.text}”` : 'came blank'}; {c.by}
          </p>
        )}
      </td>
    </tr>
  );
}
