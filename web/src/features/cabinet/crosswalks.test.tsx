// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show } from '../../ui/testing';
import { CrosswalksPage } from './CrosswalksPage';

const crosswalk = {
  id: 'c1',
  number: 'Quay',
  supplier: 'Quay',
  revision: 2,
  version: 5,
  updated: '2026-11-02T03:00:00Z',
  text: 'supplier: Quay\n',
};

it('shows which rows of open intakes a crosswalk changes, and changes settled ones only where that is said', async () => {
  const user = userEvent.setup();
  const answers: Record<string, unknown> = {
    '/crosswalks': { page: { offset: 0, limit: 500, total: 1 }, items: [crosswalk] },
    '/crosswalks/Quay': crosswalk,
    'POST /crosswalks/try': { number: 'Quay', intakes: [] },
    'PUT /crosswalks': { ...crosswalk, revision: 3, version: 6 },
  };
  const sent = service(['crosswalk.apply'], answers);
  show(<CrosswalksPage />, '/crosswalks?supplier=Quay', '/crosswalks');
  const text = await screen.findByLabelText(/^Quay/);
  await user.type(text, 'decimalMark: comma');
  answers['POST /crosswalks/try'] = {
    number: 'Quay',
    intakes: [
      {
        id: 'i7',
        number: 'IN-00007',
        fileName: 'quay.csv',
        tried: {
          rows: 3,
          settled: 1,
          moved: [{ row: 4, settled: 'the cell was corrected', moves: [{ what: 'tolerance', from: '±5 %', to: '±10 %' }] }],
        },
      },
    ],
  };
  await user.click(screen.getByRole('button', { name: 'Apply' }));
  const dialog = await screen.findByRole('dialog');
  expect(within(dialog).getByText('IN-00007 quay.csv: 3 rows, 1 of them settled before')).toBeTruthy();
  expect(within(dialog).getByText('the cell was corrected')).toBeTruthy();
  await user.click(within(dialog).getByRole('button', { name: 'Leave all as it is' }));
  expect(sent.filter((s) => s.method === 'PUT')).toHaveLength(0);

  await user.click(screen.getByRole('button', { name: 'Apply' }));
  await user.click(await screen.findByRole('button', { name: 'Apply it, the settled row too' }));
  await waitFor(() => expect(sent.find((s) => s.method === 'PUT')?.body).toMatchObject({ evenSettled: true }));
});

it('applies at once what changes no row of an open intake', async () => {
  const user = userEvent.setup();
  const sent = service(['crosswalk.apply'], {
    '/crosswalks': { page: { offset: 0, limit: 500, total: 1 }, items: [crosswalk] },
    '/crosswalks/Quay': crosswalk,
    'POST /crosswalks/try': { number: 'Quay', intakes: [] },
    'PUT /crosswalks': { ...crosswalk, revision: 3, version: 6 },
  });
  show(<CrosswalksPage />, '/crosswalks?supplier=Quay', '/crosswalks');
  await user.type(await screen.findByLabelText(/^Quay/), 'x');
  await user.click(screen.getByRole('button', { name: 'Apply' }));
  await waitFor(() => expect(sent.find((s) => s.method === 'PUT')?.body).toEqual({ text: 'supplier: Quay\nx' }));
  expect(screen.queryByRole('dialog')).toBeNull();
});
