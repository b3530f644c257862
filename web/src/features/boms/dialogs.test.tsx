// @vitest-environment jsdom
import { cleanup, render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { MemoryRouter } from 'react-router';
import { describe, expect, it, vi } from 'vitest';
import { service, show } from '../../ui/testing';
import { RemoveDialog } from './BomDialogs';
import { ColumnsDialog } from './ColumnsDialog';
import { LineDialog } from './LineDialog';
import type { BOM, Line } from './queries';

const part = {
  id: 'p1',
  number: 'EW-R-00119',
  description: 'RES 8.2kΩ',
  standing: 'active',
  revision: 1,
  manufacturer: 'Tidewright',
  mpn: 'TW-8K2',
  sources: [],
};

const line: Line = {
  row: 45,
  designators: ['R36'],
  written: 'R36',
  quantity: 1,
  number: '',
  mpn: 'TW-8K2',
  manufacturer: 'Tidewright',
  value: '6k8',
  package: '',
  description: '',
  verdict: 'proposed',
  part,
  options: [],
  tally: [
    { column: 'MPN', from: 0, to: 6, text: 'TW-8K2', says: 'agrees', param: 'mpn', record: 'TW-8K2' },
    { column: 'Value', from: 0, to: 3, text: '6k8', says: 'contradicts', param: 'resistance', record: '8.2 kΩ' },
  ],
  contradicted: true,
  evidence: ['the MPN is in the library'],
  findings: [{ severity: 'warning', cause: 'value', what: 'the value is 6k8' }],
  chosen: false,
};

function open(l: Line, mayEdit = true, mayConfirm = mayEdit) {
  const onChoose = vi.fn();
  const onWithdraw = vi.fn();
  const onNone = vi.fn();
  const onEnding = vi.fn();
  render(
    <MemoryRouter>
      <LineDialog
        line={l}
        origin=""
        back="/boms/Tide%20logger"
        mayEdit={mayEdit}
        mayConfirm={mayConfirm}
        busy={false}
        error={null}
        onClose={() => {}}
        onChoose={onChoose}
        onWithdraw={onWithdraw}
        onNone={onNone}
        onBoard={() => undefined}
        onEnding={onEnding}
      />
    </MemoryRouter>,
  );
  return { onChoose, onWithdraw, onEnding, onNone };
}

it('lays every piece of the line beside the record, in words', () => {
  open(line);
  const rows = within(screen.getByRole('table')).getAllByRole('row');
  expect(rows.map((r) => r.textContent)).toEqual([
    expect.stringContaining('As written'),
    expect.stringMatching(/MPN.*TW-8K2.*agrees/),
    expect.stringMatching(/Value.*6k8.*8\.2 kΩ.*contradicts.*resistance/),
  ]);
});

it('asks why a contradicted record is meant, and sends the reason', async () => {
  const { onChoose } = open(line);
  await userEvent.type(screen.getByLabelText(/Why it is meant/), 'changed on the bench');
  await userEvent.click(screen.getByRole('button', { name: 'Use this part' }));
  expect(onChoose).toHaveBeenCalledExactlyOnceWith('p1', 'changed on the bench', { alike: false, learn: '' });
});

it('asks for no reason where nothing contradicts, and offers nothing to a reader', () => {
  open({ ...line, contradicted: false });
  expect(screen.queryByLabelText(/Why it is meant/)).toBeNull();
  cleanup();
  open(line, false);
  expect(screen.queryByRole('button', { name: 'Use this part' })).toBeNull();
});

it('shows the reason of a choice and takes it back', async () => {
  const { onWithdraw } = open({ ...line, verdict: 'linked', chosen: true, reason: 'changed on the bench' });
  expect(screen.getByText(/changed on the bench/)).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Take the choice back' }));
  expect(onWithdraw).toHaveBeenCalledOnce();
});

it('sends only the columns that were changed', async () => {
  const onSay = vi.fn();
  const bom = {
    columns: [
      { at: 0, heading: 'Ref', role: 'designator', meaning: 'count', because: 'its heading says so' },
      { at: 1, heading: 'Zzz', role: '', meaning: '', because: 'nothing is known of its heading' },
    ],
  } as unknown as BOM;
  render(<ColumnsDialog bom={bom} busy={false} error={null} onClose={() => {}} onSay={onSay} />);
  await userEvent.click(screen.getByRole('button', { name: 'Confirm them as they are' }));
  expect(onSay).toHaveBeenLastCalledWith([]);
  await userEvent.selectOptions(screen.getByLabelText('What Zzz is'), 'mpn');
  await userEvent.click(screen.getByRole('button', { name: 'Change 1 and confirm the rest' }));
  expect(onSay).toHaveBeenLastCalledWith([{ at: 1, role: 'mpn' }]);
});

it('offers to confirm an ending for its maker, to those who may', async () => {
  const asks = { ...line, ending: { maker: 'Tidewright', letters: 'TR' } };
  const { onEnding } = open(asks);
  await userEvent.click(screen.getByRole('button', { name: 'TR is only a packing of Tidewright' }));
  expect(onEnding).toHaveBeenCalledWith({ maker: 'Tidewright', letters: 'TR' });
  cleanup();
  open(asks, true, false);
  expect(screen.queryByRole('button', { name: /only a packing/ })).toBeNull();
});

it('says how far a choice goes: for the other lines that ask for the same, and for the next files', async () => {
  const user = userEvent.setup();
  const plain = { ...line, contradicted: false, findings: [], alike: 23 } as Line;
  const { onChoose } = open(plain);
  expect(document.activeElement?.textContent).toContain('the MPN is in the library'); // keys are heard, and Enter does nothing
  expect(screen.getByRole('checkbox', { name: 'also for the 23 other open lines that ask for the same', checked: true })).toBeTruthy();
  await user.selectOptions(screen.getByRole('combobox', { name: /of which no origin is said/ }), 'link');
  await user.click(screen.getByRole('button', { name: 'Use this part for 24 lines' }));
  expect(onChoose).toHaveBeenLastCalledWith('p1', '', { alike: true, learn: 'link' });
  await user.click(screen.getByRole('checkbox'));
  await user.keyboard('a'); // a key works where a box has the focus
  expect(onChoose).toHaveBeenLastCalledWith('p1', '', { alike: false, learn: 'link' });
});

it('takes a part that nothing proposed, by its number', async () => {
  const user = userEvent.setup();
  const { onChoose } = open({ ...line, verdict: 'not in the library', part: undefined, options: [], contradicted: false, findings: [], tally: [] } as Line); // prettier-ignore
  await user.type(screen.getByLabelText('Another part'), ' EW-R-00009 ');
  await user.type(screen.getByLabelText(/^What it is/), 'as agreed{Enter}');
  expect(onChoose).toHaveBeenLastCalledWith('EW-R-00009', 'as agreed', { alike: false, learn: '' });
});

it('marks a line as no part of the library, by a key and what it is', async () => {
  const user = userEvent.setup();
  const { onNone } = open({ ...line, verdict: 'not in the library', part: undefined, options: [], contradicted: false, findings: [], tally: [], alike: 2 } as Line); // prettier-ignore
  await user.keyboard('x');
  await user.keyboard('a label{Enter}');
  expect(onNone).toHaveBeenLastCalledWith('a label', { alike: true, learn: '' });
});

it('offers to link by itself only to those who may', () => {
  open({ ...line, contradicted: false } as Line, true, false);
  const said = within(screen.getByRole('combobox')).getAllByRole('option');
  expect(said.map((o) => o.textContent)).toEqual(['nothing of this is kept', 'such lines are proposed the part']);
  expect(screen.queryByRole('checkbox')).toBeNull();
});

it('takes the first record by a key, goes on to the next line by another, and leaves keys alone that somebody types', async () => {
  const user = userEvent.setup();
  const chosen: string[] = [];
  let next = 0;
  const part = { id: 'p1', number: 'EW-R-1', description: 'RES', standing: 'active', revision: 1, manufacturer: '', mpn: '', sources: [] };
  const line = { row: 2, written: 'R1', designators: ['R1'], verdict: 'proposed', part, options: [], tally: [], evidence: [], findings: [], value: '1k', package: '', mpn: '', description: '' } as unknown as Line; // prettier-ignore
  const dialog = (more: object) => (
    <LineDialog
      line={{ ...line, ...more } as Line}
      origin=""
      back="/"
      mayEdit
      mayConfirm={false}
      busy={false}
      error={undefined}
      onClose={() => undefined}
      onChoose={(id, reason) => chosen.push(`${id} ${reason}`)}
      onWithdraw={() => undefined}
      onNone={() => undefined}
      onBoard={() => undefined}
      onEnding={() => undefined}
      onNext={() => next++}
    />
  );
  render(<MemoryRouter>{dialog({ contradicted: true })}</MemoryRouter>);
  const reason = await screen.findByLabelText(/Why it is meant/);
  await user.keyboard('a');
  expect(chosen).toEqual([]); // it begins in the field
  await user.click(reason);
  await user.keyboard('nasa');
  expect((reason as HTMLInputElement).value).toBe('anasa');
  expect(next).toBe(0);
  screen.getByRole('button', { name: 'Use this part' }).focus();
  await user.keyboard('an');
  expect(chosen).toEqual(['p1 anasa']);
  expect(next).toBe(1);
});

describe('removing a BOM', () => {
  const bom = (revision: number) =>
    ({ id: 'b1', name: 'Gauge', version: 3, revision, lines: [line, { ...line, chosen: true }] }) as unknown as BOM;

  it('says what goes with it, and is done on the version that was seen', async () => {
    const user = userEvent.setup();
    const sent = service(['bom.edit'], { 'POST /boms/b1/remove': { name: 'Gauge', decisions: 1 } });
    const onGone = vi.fn();
    show(<RemoveDialog bom={bom(0)} onClose={() => undefined} onGone={onGone} />);
    expect(await screen.findByText(/decided for 1 line;/)).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Remove it' }));
    await waitFor(() => expect(onGone).toHaveBeenCalled());
    expect(sent.at(-1)?.match).toBe('"3"');
    expect(screen.getByText('Gauge is removed.')).toBeTruthy();
  });

  it('is not offered where revisions were frozen', async () => {
    service(['bom.edit'], {});
    show(<RemoveDialog bom={bom(2)} onClose={() => undefined} onGone={() => undefined} />);
    expect(await screen.findByText(/2 frozen revisions, which stay/)).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Remove it' })).toBeNull();
  });
});
