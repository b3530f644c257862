import { useEffect, useState, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { useKeys } from '../../ui/keys';
import { Button, Dialog, Field, State, Trouble } from '../../ui/kit';
import { LearnFields, type Far } from './Learn';
import { taken, useBoms, type Line } from './queries';

/** What a line asks the suppliers: its part number, or what it says of the part. */
const asked = (line: Line) => line.mpn || [line.value, line.package].filter(Boolean).join(' ') || line.description;

/** All that a line says of its part, as it is read where a part is made. */
const said = (line: Line) => [line.manufacturer, line.mpn, line.value, line.package, line.description].filter(Boolean).join(' ');

/** One line beside its record: every piece of the line with what the record says of it, and what a person may decide. */
export function LineDialog({
  line,
  findings,
  drawings,
  origin,
  back,
  mayEdit,
  mayConfirm,
  busy,
  error,
  onClose,
  onChoose,
  onNone,
  onBoard,
  onWithdraw,
  onEnding,
  onWant,
  onNext,
}: {
  line: Line;
  /** What checks say of it. */
  findings?: ReactNode;
  /** Those of its record. */
  drawings?: ReactNode;
  /** Who or what the file comes from: what is taught counts for that. */
  origin: string;
  /** The page of the board, where what is taken from a supplier comes back to. */
  back: string;
  mayEdit: boolean;
  mayConfirm: boolean;
  busy: boolean;
  error: unknown;
  onClose: () => void;
  onChoose: (part: string, reason: string, far: Far) => void;
  /** It is no part of the library. */
  onNone: (why: string, far: Far) => void;
  /** It is another BOM, of one variant where that is built in several. */
  onBoard: (board: string, variant: string, why: string) => void;
  onWithdraw: () => void;
  onEnding: (ending: { maker: string; letters: string }) => void;
  /** Wants what the line asks for; nothing where the person may not. */
  onWant?: () => void;
  /** Goes on to the next line that nobody answered; nothing where this is the last. */
  onNext?: () => void;
}) {
  const [reason, setReason] = useState('');
  const [board, setBoard] = useState(false);
  const [far, setFar] = useState<Far>({ alike: (line.alike ?? 0) > 0, learn: '' });
  const linked = ['linked', 'no library part', 'another BOM'].includes(line.verdict);
  const options = linked ? (line.part ? [line.part] : []) : [...(line.part ? [line.part] : []), ...line.options];
  const go = useNavigate();
  const first = mayEdit && !linked && !busy ? options[0] : undefined;
  const ready = first && (!line.contradicted || reason.trim() !== '');
  const suppliers = `/suppliers?q=${encodeURIComponent(asked(line))}&back=${encodeURIComponent(back)}`;
  const make = `/parts/new?read=${encodeURIComponent(said(line))}&back=${encodeURIComponent(back)}`;
  const does: Record<string, (() => void) | undefined> = {
    a: ready ? () => onChoose(first.id, reason, far) : undefined,
    n: onNext,
    c: mayEdit && !linked ? () => document.querySelector<HTMLElement>('[data-another]')?.focus() : undefined,
    x: mayEdit && !linked ? () => document.querySelector<HTMLElement>('[data-why]')?.focus() : undefined,
    w: linked || busy ? undefined : onWant,
    m: mayEdit && !linked ? () => void go(make) : undefined,
    b: mayEdit && !linked ? () => setBoard(true) : undefined,
    s: linked ? undefined : () => void go(suppliers),
    ...Object.fromEntries(
      options.slice(0, 9).map((o, i) => [String(i + 1), mayEdit && !linked && !busy ? () => onChoose(o.id, reason, far) : undefined]),
    ),
  };
  useKeys(does, 'dialog');
  return (
    <Dialog open wide title={line.written ? `Row ${line.row}: ${line.written}` : `Row ${line.row}`} onClose={onClose}>
      {/* Keys are heard at once, and none that is still held does anything. */}
      <p className="mb-2 text-sm focus:outline-none" data-first={line.contradicted && mayEdit && !linked ? undefined : ''} tabIndex={-1}>
        <State of={line.verdict} /> {line.evidence.join('; ')}
      </p>
      {line.tally.length > 0 && !line.board && <Tally line={line} />}
      {findings}
      <Trouble error={error} />
      {mayEdit && !linked && line.contradicted && (
        <div className="mb-3 max-w-xl">
          <Field
            label="Why it is meant although the line contradicts it"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            hint="Kept with the choice, which stays marked."
          />
        </div>
      )}
      <ul className="space-y-1.5">
        {options.map((o, i) => (
          <li key={o.id} className="flex flex-wrap items-center gap-3 rounded border border-line p-2 text-sm">
            {mayEdit && !linked && i < 9 && <kbd className="font-mono text-xs text-soft">{i + 1}</kbd>}
            <Link className="font-semibold underline" to={`/parts/${encodeURIComponent(o.number)}`}>
              {o.number}
            </Link>
            <span className="flex-1">
              {o.description} · {o.manufacturer} {o.mpn}
            </span>
            <State of={o.standing} />
            {mayEdit && !linked && (
              <Button look="act" disabled={busy} onClick={() => onChoose(o.id, reason, far)}>
                {far.alike ? `Use this part for ${String(1 + (line.alike ?? 0))} lines` : 'Use this part'}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {mayEdit && !linked && <LearnFields line={line} origin={origin} mayLink={mayConfirm} far={far} onFar={setFar} />}
      {mayEdit && !linked && <Another busy={busy} onUse={(number, why) => onChoose(number, why, far)} onNone={(why) => onNone(why, far)} />}
      {mayEdit &&
        !linked &&
        (board ? (
          <WhichBoard own={back} busy={busy} onTake={onBoard} />
        ) : (
          <Button className="mt-3" onClick={() => setBoard(true)}>
            It is another board…
          </Button>
        ))}
      {line.board && (
        <p className="mt-2 text-sm">
          The board takes{' '}
          <Link className="font-semibold underline" to={`/boms/${encodeURIComponent(line.board.name)}`}>
            {taken(line.board)}
          </Link>
          {line.board.lines > 0 && `, which is made of ${String(line.board.lines)} lines`}.
        </p>
      )}
      {mayConfirm && line.ending && (
        <p className="mt-3 flex flex-wrap items-center gap-3 text-sm">
          <Button disabled={busy} onClick={() => line.ending && onEnding(line.ending)}>
            {line.ending.letters} is only a packing of {line.ending.maker}
          </Button>
          <span className="text-soft">For all their MPNs, in every BOM.</span>
        </p>
      )}
      {line.reason && (
        <p className="mt-2 text-sm">
          {{ linked: 'Chosen although the line contradicts it', 'another BOM': 'Because' }[line.verdict] ?? 'No part of the library'}:{' '}
          {line.reason}
        </p>
      )}
      {mayEdit && line.chosen && (
        <Button className="mt-3" disabled={busy} onClick={onWithdraw}>
          Take the choice back
        </Button>
      )}
      {line.verdict === 'not in the library' && (
        <p className="text-sm">
          <Link className="font-semibold underline" to={suppliers}>
            Ask the suppliers
          </Link>
          ,{' '}
          <Link className="underline" to={make}>
            make the part
          </Link>{' '}
          or bring in a supplier’s file that has it.
        </p>
      )}
      <p className="mt-3 text-xs text-soft">
        {[
          ready && `a: use ${first.number}`,
          mayEdit && !linked && options.length > 1 && `1–${String(Math.min(9, options.length))}: use that one`,
          mayEdit && !linked && 'c: another part',
          onNext && 'n: the next open line',
          mayEdit && !linked && 'x: no part of the library',
          mayEdit && !linked && 'b: another board',
          !linked && onWant && 'w: want it',
          !linked && 's: ask the suppliers',
          mayEdit && !linked && 'm: make it',
        ]
          .filter(Boolean)
          .join(' · ')}
      </p>
      {drawings}
    </Dialog>
  );
}

/** A part that nothing proposed, by its number; or that the line stands for none. */
function Another({ busy, onUse, onNone }: { busy: boolean; onUse: (number: string, why: string) => void; onNone: (why: string) => void }) {
  const [number, setNumber] = useState('');
  const [why, setWhy] = useState('');
  return (
    <form
      className="mt-3 flex flex-wrap items-end gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (number.trim()) onUse(number.trim(), why);
        else if (why.trim()) onNone(why);
      }}
    >
      <div className="w-44">
        <Field label="Another part" data-another="" value={number} onChange={(e) => setNumber(e.target.value)} maxLength={200} />
      </div>
      <div className="min-w-56 flex-1">
        <Field label="What it is, or why it is meant" data-why="" value={why} onChange={(e) => setWhy(e.target.value)} maxLength={500} />
      </div>
      <Button type={number.trim() ? 'submit' : 'button'} disabled={busy || !number.trim()}>
        Use it
      </Button>
      <Button type={number.trim() ? 'button' : 'submit'} disabled={busy || !why.trim() || number.trim() !== ''}>
        No part of the library
      </Button>
    </form>
  );
}

/** A line that stands for another board: which BOM, and which of its variants. */
function WhichBoard({ own, busy, onTake }: { own: string; busy: boolean; onTake: (board: string, variant: string, why: string) => void }) {
  const boms = useBoms();
  useEffect(() => document.querySelector<HTMLElement>('[data-board]')?.focus(), []);
  const [board, setBoard] = useState('');
  const [variant, setVariant] = useState('');
  const others = boms.data?.items.filter((b) => `/boms/${encodeURIComponent(b.name)}` !== own) ?? [];
  return (
    <form
      className="mt-3 mb-3 flex flex-wrap items-end gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (board.trim()) onTake(board.trim(), variant.trim(), '');
      }}
    >
      <div className="w-64">
        <Field label="BOM" data-board="" list="other-boards" value={board} onChange={(e) => setBoard(e.target.value)} maxLength={100} />
        <datalist id="other-boards">
          {others.map((b) => (
            <option key={b.id} value={b.name}>
              {b.revision === 0 ? 'never frozen' : `${String(b.revision)} × frozen`}
            </option>
          ))}
        </datalist>
      </div>
      <div className="w-48">
        <Field label="Variant, if it has several" value={variant} onChange={(e) => setVariant(e.target.value)} maxLength={60} />
      </div>
      <Button type="submit" disabled={busy || !board.trim()}>
        Take this board
      </Button>
      <Trouble error={boms.error} />
    </form>
  );
}

/** The tally of a line: what each piece was compared with, and how that went. */
function Tally({ line }: { line: Line }) {
  return (
    <table className="mb-3 w-full text-sm">
      <caption className="sr-only">Every piece of the line beside {line.part?.number ?? 'the library'}</caption>
      <thead>
        <tr className="text-left text-xs text-soft">
          <th className="py-1 pr-3">Column</th>
          <th className="pr-3">As written</th>
          <th className="pr-3">{line.part?.number ?? 'Record'}</th>
          <th className="pr-3">Says</th>
          <th>Compared with</th>
        </tr>
      </thead>
      <tbody>
        {line.tally.map((b, n) => (
          <tr key={n} className={`border-t border-line/60 ${b.says === 'contradicts' ? 'bg-rust-tint/40' : ''}`}>
            <th scope="row" className="py-1 pr-3 text-left font-medium text-soft">
              {b.column}
            </th>
            <td className="max-w-56 pr-3 font-mono text-xs break-words">{b.text}</td>
            <td className="max-w-56 pr-3 break-words">{b.record}</td>
            <td className="pr-3">
              <State of={b.says} />
            </td>
            <td className="text-xs text-soft">{[b.param, b.why].filter(Boolean).join(': ')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
