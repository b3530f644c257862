import { useState } from 'react';
import { Field, Panel, Select } from './kit';

interface Sheet {
  hash: string;
  name: string;
}

/** Which datasheet is open, at which page; what a signature names is the two together. */
export function useSheet(sheets: Sheet[], first = true) {
  const [chosen, choose] = useState<string | undefined>();
  const [page, turn] = useState('1');
  const hash = chosen ?? (first ? (sheets[0]?.hash ?? '') : '');
  const sheet = sheets.find((s) => s.hash === hash);
  return { sheets, sheet, page, choose, turn, against: sheet ? `${sheet.name}, page ${page}` : '' };
}

type Opened = ReturnType<typeof useSheet>;

/** Chooses the datasheet and its page; blank where there is none to choose. */
export function SheetChoice({ of, label, none = false }: { of: Opened; label: string; none?: boolean }) {
  return (
    <>
      {(of.sheets.length > 1 || (none && of.sheets.length > 0)) && (
        <Select label={label} value={of.sheet?.hash ?? ''} onChange={(e) => of.choose(e.target.value)}>
          {none && <option value="">none</option>}
          {of.sheets.map((s) => (
            <option key={s.hash} value={s.hash}>
              {s.name}
            </option>
          ))}
        </Select>
      )}
      {of.sheet && <Field label="Page" type="number" min={1} value={of.page} onChange={(e) => of.turn(e.target.value)} />}
    </>
  );
}

/** The page of a datasheet, beside what is compared with it. What is no PDF is opened by itself. */
export function SheetPage({ of, tall = 'h-[36rem]' }: { of: Opened; tall?: string }) {
  if (!of.sheet) return null;
  const { hash, name } = of.sheet;
  if (!/\.pdf$/i.test(name))
    return (
      <p className="text-sm">
        {name} is no PDF:{' '}
        <a className="underline" href={`/api/v1/files/${hash}?name=${encodeURIComponent(name)}`}>
          save it
        </a>{' '}
        and open it beside this page.
      </p>
    );
  return (
    <iframe
      key={of.page}
      title={`${name}, page ${of.page}`}
      className={`w-full rounded border border-line ${tall}`}
      src={`/api/v1/files/${hash}/pdf#page=${of.page}&navpanes=0&view=FitH`}
    />
  );
}

/** A datasheet as a panel of its own: which one, which page, and the page. */
export function SheetPanel({ of }: { of: Opened }) {
  if (!of.sheet) return null;
  return (
    <Panel
      title={of.sheet.name}
      actions={
        <a className="text-sm underline" target="_blank" rel="noreferrer" href={`/api/v1/files/${of.sheet.hash}/pdf#page=${of.page}`}>
          In a window of its own
        </a>
      }
    >
      <div className="mb-2 flex flex-wrap items-end gap-3">
        <SheetChoice of={of} label="Datasheet" />
      </div>
      <SheetPage of={of} tall="h-[calc(100vh-16rem)] min-h-80" />
    </Panel>
  );
}
