// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show } from '../../ui/testing';
import { RowDialog } from './RowDialog';
import type { Intake } from './queries';

const intake = { id: 'i1', version: 4, number: 'IN-00004' } as Intake;
const row = {
  row: 7, state: 'new', why: '', mpn: 'TW-1', drawer: 'chip-resistors', because: '', values: { resistance: '4.7 kΩ' }, changes: [], findings: [], origins: { resistance: 'Value: "471"' },
  cells: [{ field: 'Value', text: '471', edited: false }, { field: 'Tol', text: '5%', edited: true, corrected: '1%', by: 'Maren on 2026-11-02' }],
}; // prettier-ignore
const tried = {
  rows: 3,
  settled: 0,
  leftOut: 0,
  lost: 0,
  loses: [],
  elsewhere: { rows: 12, files: 2, of: 5, named: ['IN-00002 (may.csv)'] },
  moved: [{ row: 7, moves: [{ what: 'resistance', text: '470', from: '471 Ω', to: '470 Ω' }] }],
};

it('corrects a cell, and everywhere only after its rows and files were shown', async () => {
  const user = userEvent.setup();
  const sent = service(['intake.edit'], {
    '/intakes/i1/rows/7': row,
    'POST /intakes/i1/tries': tried,
    'POST /intakes/i1/edits': { ...intake, version: 5 },
  });
  const changes: unknown[] = [];
  show(<RowDialog intake={intake} row={7} error={undefined} onClose={() => undefined} onChange={(c) => changes.push(c)} />);
  expect(await screen.findByText(/came as “5%”; Maren on 2026-11-02/)).toBeTruthy();
  const cell = screen.getByLabelText('Value');
  await user.clear(cell);
  await user.type(cell, '470');
  await user.click(screen.getByRole('button', { name: 'Correct' }));
  expect(changes).toEqual([{ cells: [{ row: 7, field: 'Value', text: '470' }] }]);

  await user.click(screen.getByRole('button', { name: 'Correct Value everywhere' }));
  const dialog = await screen.findByRole('dialog', { name: /Wherever “Value” says “471”/ });
  expect(await within(dialog).findByText(/Of 5 other files of this layout 2 say the same, in 12 rows: IN-00002 \(may.csv\)/)).toBeTruthy();
  await user.click(within(dialog).getByRole('button', { name: 'Change 3 rows' }));
  await waitFor(() =>
    expect(sent.find((s) => s.path.endsWith('/edits'))?.body).toEqual({
      cells: [{ row: 7, field: 'Value', text: '470', everywhere: true }],
    }),
  );
});

it('leaves a part number out everywhere after it was shown', async () => {
  const user = userEvent.setup();
  const sent = service(['intake.edit'], {
    '/intakes/i1/rows/7': row,
    'POST /intakes/i1/tries': { ...tried, leftOut: 3, elsewhere: { rows: 0, files: 0, of: 0, named: [] } },
    'POST /intakes/i1/edits': { ...intake, version: 5 },
  });
  show(<RowDialog intake={intake} row={7} error={undefined} onClose={() => undefined} onChange={() => undefined} />);
  await user.click(await screen.findByRole('button', { name: 'Leave out everywhere…' }));
  const dialog = await screen.findByRole('dialog', { name: 'Leave TW-1 out everywhere' });
  expect(await within(dialog).findByText('No other file of this layout is there.')).toBeTruthy();
  await user.click(within(dialog).getByRole('button', { name: 'Change 3 rows' }));
  await waitFor(() => expect(sent.find((s) => s.path.endsWith('/edits'))?.body).toEqual({ leaveOut: [7], everywhere: true }));
});
