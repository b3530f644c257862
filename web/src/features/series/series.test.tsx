// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { Refusal, service, show, tall } from '../../ui/testing';
import { SeriesListPage } from './SeriesListPage';
import { SeriesPage } from './SeriesPage';

const said = { manufacturer: 'Tidewright', name: 'TW-9', members: ['TW-9-1K', 'TW-9-2K'], datasheets: [{ hash: 'h', name: 'tw9.pdf' }] };
const series = {
  id: 's1',
  number: 'Tidewright: TW-9',
  version: 3,
  said,
  parts: [{ id: 'p1', number: 'EW-R-00001', mpn: 'TW-9-1K', description: 'RES 1kΩ', draft: true }],
  total: 1,
  absent: ['TW-9-2K'],
};
const none = { page: { offset: 0, limit: 500, total: 0 }, items: [] };

it('makes what is proposed, and adds further members to the series that is there', async () => {
  tall();
  const user = userEvent.setup();
  const proposal = { ...said, why: '2 part numbers begin with TW-9' };
  const answers: Record<string, unknown> = {
    '/series': none,
    '/series/proposals': {
      ...none,
      items: [proposal, { ...said, name: 'QY', members: ['QY-3'], into: 'Tidewright: QY', why: 'they name it' }],
    },
    'POST /series': series,
    '/series/Tidewright%3A%20QY': { ...series, id: 's2', version: 7, said: { ...said, name: 'QY', members: ['QY-1'] } },
    'PUT /series/s2': series,
  };
  const sent = service(['part.edit'], answers);
  show(<SeriesListPage />);
  expect(await screen.findByText('No series yet')).toBeTruthy();
  await user.click(await screen.findByRole('button', { name: 'Take over Tidewright TW-9' }));
  await waitFor(() => expect(sent.find((x) => x.path === '/series')?.body).toEqual(said));
  await user.click(screen.getByRole('button', { name: 'Take over Tidewright QY' }));
  await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ name: 'QY', members: ['QY-1', 'QY-3'] }));
});

it('shows the parts, those that the library lacks, and takes one out', async () => {
  const user = userEvent.setup();
  const sent = service(['part.edit'], { '/series/s1': series, 'PUT /series/s1': series, '/comments': none });
  show(<SeriesPage />, '/series/s1', '/series/:key');
  expect(await screen.findByText('EW-R-00001')).toBeTruthy();
  expect(screen.getByText('tw9.pdf').getAttribute('href')).toContain('/files/h?name=tw9.pdf');
  expect(screen.getByText('TW-9-2K')).toBeTruthy();
  await user.click(await screen.findByRole('button', { name: 'Take TW-9-1K out' }));
  await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ members: ['TW-9-2K'] }));
  await user.click(screen.getByRole('button', { name: 'Detach' }));
  await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ datasheets: [] }));
});

it('adds part numbers of a list and says what keeps them out', async () => {
  const user = userEvent.setup();
  const answers: Record<string, unknown> = {
    '/series/s1': series,
    'PUT /series/s1': new Refusal(409, 'in-series', 'TW-9-3K is in the series Tidewright: OLD; nothing was kept.'),
    '/comments': none,
  };
  const sent = service(['part.edit'], answers);
  show(<SeriesPage />, '/series/s1', '/series/:key');
  await user.click(await screen.findByRole('button', { name: 'Add part numbers…' }));
  const dialog = await screen.findByRole('dialog');
  await user.type(within(dialog).getByLabelText('Part numbers, one a line'), 'TW-9-3K\n TW-9-4K, TW-9-5K');
  await user.click(within(dialog).getByRole('button', { name: 'Add 3' }));
  expect((await within(dialog).findByRole('alert')).textContent).toContain('is in the series Tidewright: OLD');
  answers['PUT /series/s1'] = series;
  await user.click(within(dialog).getByRole('button', { name: 'Add 3' }));
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  expect(sent.at(-1)?.body).toMatchObject({ members: ['TW-9-1K', 'TW-9-2K', 'TW-9-3K', 'TW-9-4K', 'TW-9-5K'] });
});
