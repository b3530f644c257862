import { useState } from 'react';
import { Link } from 'react-router';
import type { Schemas } from '../../api/client';
import { Button, Chip, Field, Panel, TextArea, Trouble } from '../../ui/kit';
import { useReadPart, useRecords } from './queries';

export type Read = Schemas['PartRead'];

/** Takes what a person has of a part: a pasted table or line, or a number in a file loaded before. */
export function ReadPanel({
  drawer,
  beside,
  start = '',
  onRead,
}: {
  drawer?: string;
  beside?: string;
  /** A text that is there already, such as what a want says. */
  start?: string;
  onRead: (r: Read) => void;
}) {
  const [text, setText] = useState(start);
  const [number, setNumber] = useState('');
  const [asked, setAsked] = useState('');
  const read = useReadPart();
  const records = useRecords(asked);
  const send = (body: Schemas['ReadPart']) => read.mutate({ drawer, beside, ...body }, { onSuccess: onRead });
  return (
    <div className="grid gap-3 lg:grid-cols-2">
      <Panel title="Paste what you have">
        <form
          className="space-y-2"
          onSubmit={(e) => {
            e.preventDefault();
            send({ text });
          }}
        >
          <TextArea
            label="Text to read"
            hint="A parameter table, “Name: value” lines, a row of a spreadsheet, or one line such as RES 4.7 kΩ 1% 0.125 W 0805"
            rows={6}
            // The page is for pasting: that is the first thing done here.
            // eslint-disable-next-line jsx-a11y/no-autofocus
            autoFocus
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
                e.preventDefault();
                send({ text });
              }
            }}
          />
          <Button look="act" type="submit" disabled={!text.trim() || read.isPending}>
            Read it
          </Button>{' '}
          <span className="text-xs text-soft">Ctrl+Enter</span>
        </form>
      </Panel>
      <Panel title="Or find it in a file loaded before">
        <form
          className="flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            setAsked(number.trim());
          }}
        >
          <div className="flex-1">
            <Field label="Manufacturer or supplier number" value={number} onChange={(e) => setNumber(e.target.value)} />
          </div>
          <Button type="submit" disabled={!number.trim()}>
            Find
          </Button>
        </form>
        {records.data?.items.length === 0 && <p className="mt-2 text-sm text-soft">No file that was loaded has this number.</p>}
        <ul className="mt-2 space-y-1 text-sm">
          {records.data?.items.map((r) => (
            <li key={r.intake + String(r.row)}>
              <button type="button" className="text-left underline" onClick={() => send({ intake: r.intake, row: r.row })}>
                {r.source.manufacturer} {r.source.mpn} {r.description}
              </button>{' '}
              <span className="text-soft">
                {r.supplier}, {r.file}, row {r.row}
              </span>
            </li>
          ))}
        </ul>
      </Panel>
      <Trouble error={read.error ?? records.error} />
    </div>
  );
}

/** What was read, with its reasons: what is unused, what is to be filled by hand, and what the library has already. */
export function ReadNotes({ read: r }: { read: Read }) {
  const bad = r.values.filter((v) => v.problem);
  return (
    <div className="space-y-2 text-sm">
      <p>
        <Chip tone={r.drawer ? 'good' : 'bad'}>{r.label ?? 'no drawer'}</Chip>{' '}
        <span className="text-soft">{r.drawer ? r.because : 'The text names none, or several: choose one.'}</span>{' '}
        {r.from && `From ${r.from}.`}
      </p>
      {r.same.length > 0 && (
        <p role="status" className="rounded border border-rust bg-rust-tint px-3 py-1.5">
          <strong>The library has this manufacturer part number:</strong>{' '}
          {r.same.map((p) => (
            <Link key={p.number} className="mr-2 underline" to={`/parts/${encodeURIComponent(p.number)}`}>
              {p.number} {p.description}
            </Link>
          ))}
        </p>
      )}
      {r.alike.length > 0 && (
        <p role="status" className="rounded border border-amber bg-amber-tint px-3 py-1.5">
          <strong>Equal in every identifying parameter:</strong>{' '}
          {r.alike.map((p) => (
            <Link key={p.number} className="mr-2 underline" to={`/parts/${encodeURIComponent(p.number)}`}>
              {p.number} {p.description}
            </Link>
          ))}
          . It may be another source of that part.
        </p>
      )}
      {bad.length > 0 && (
        <ul>
          {bad.map((v) => (
            <li key={v.key}>
              <Chip tone="bad">not read</Chip> {v.key}: “{v.written}” — {v.problem}
            </li>
          ))}
        </ul>
      )}
      <details>
        <summary className="cursor-pointer text-soft">
          {r.values.length - bad.length} values were read, {r.unused.length} texts are not used
          {r.byHand.length > 0 && `, ${r.byHand.length} are to be filled by hand`}
        </summary>
        <ul className="mt-1 grid gap-x-4 md:grid-cols-2">
          {r.values.map((v) => (
            <li key={v.key} className="truncate">
              <strong>{v.key}</strong> {v.value} <span className="text-xs text-soft">{v.why}</span>
            </li>
          ))}
          {r.unused.map((f, n) => (
            <li key={`u${n}`} className="truncate text-soft">
              not used: {f.name && `${f.name}: `}
              {f.text}
            </li>
          ))}
          {r.byHand.map((k) => (
            <li key={`h${k}`} className="text-soft">
              by hand: {k}
            </li>
          ))}
        </ul>
      </details>
    </div>
  );
}

/** Where each value came from, to be kept with it. */
export function cameFrom(r: Read): Record<string, string> {
  return Object.fromEntries(
    r.values.filter((v) => !v.problem).map((v) => [v.key, `${r.from ?? 'a pasted text'}${v.field ? `, ${v.field}` : ''}: ${v.written}`]),
  );
}
