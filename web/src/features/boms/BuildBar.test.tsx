// @vitest-environment jsdom
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show } from '../../ui/testing';
import { BuildBar } from './BuildBar';
import type { BOM, Line } from './queries';

const short = { row: 2, findings: [{ severity: 'warning', cause: 'stock-short', what: 'suppliers have 90' }] } as unknown as Line;
const bom = (build: number, lines: Line[] = []) =>
  ({ id: 'b1', name: 'Gauge', version: 3, build, counts: { linked: 4 }, variants: [], lines }) as unknown as BOM;

it('keeps how many boards are built, on the version that was seen, and only what is a number', async () => {
  const user = userEvent.setup();
  const sent = service(['bom.edit', 'offers.refresh'], { 'POST /boms/b1/build': bom(40) });
  show(<BuildBar bom={bom(0)} at="Gauge" />);
  const field = await screen.findByLabelText('Boards in a build');
  await waitFor(() => expect((field as HTMLInputElement).disabled).toBe(false));
  await user.type(field, 'x4{Enter}');
  expect(screen.getByText(/A number up to/)).toBeTruthy();
  expect(sent.filter((s) => s.path.includes('build'))).toHaveLength(0);
  await user.clear(field);
  await user.type(field, '40{Enter}');
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ boards: 40 }));
  expect(sent.at(-1)?.match).toBe('"3"');
  expect(await screen.findByText('A build of Gauge is 40 boards.')).toBeTruthy();
});

it('asks the suppliers for the parts of the BOM, with numbers, and says who did not answer', async () => {
  const user = userEvent.setup();
  const sent = service(['bom.edit', 'offers.refresh'], {
    'POST /offers/refresh': { id: 'j1', state: 'running' },
    '/jobs/j1': {
      id: 'j1',
      state: 'done',
      refreshed: {
        sources: 4,
        offers: 11,
        news: 1,
        suppliers: [{ supplier: 'Marsh Lane', state: 'no answer', says: 'Marsh Lane is asked too often.' }],
        problems: [],
      },
    },
  });
  show(<BuildBar bom={bom(40, [short])} at="Gauge" />);
  expect(await screen.findByText(/stock for less than a build: 1 line/)).toBeTruthy();
  await user.click(await screen.findByRole('button', { name: 'Ask the suppliers for its parts' }));
  await waitFor(() => expect(sent.find((s) => s.path.endsWith('/offers/refresh'))?.body).toEqual({ bom: 'b1' }));
  expect(await screen.findByText(/4 sources asked for, 11 offers seen, 1 piece of news\./)).toBeTruthy();
  expect(screen.getByText('Marsh Lane is asked too often.')).toBeTruthy();
});

it('shows who may not change it what it is, and asks nobody for them', async () => {
  service([], {});
  show(<BuildBar bom={bom(40)} at="Gauge" />);
  expect(((await screen.findByLabelText('Boards in a build')) as HTMLInputElement).value).toBe('40');
  expect(screen.queryByRole('button')).toBeNull();
});

it('keeps the day of a build, and says of how many lines more comes after it', async () => {
  const user = userEvent.setup();
  const late = { row: 3, findings: [{ severity: 'warning', cause: 'lead-late', what: 'more of it come in 84 days' }] } as unknown as Line;
  const sent = service(['bom.edit'], { 'POST /boms/b1/build': bom(40) });
  show(<BuildBar bom={bom(40, [short, late])} at="Gauge" />);
  expect(await screen.findByText('more comes after the day: 1 line')).toBeTruthy();
  const day = screen.getByLabelText('On the day');
  await waitFor(() => expect((day as HTMLInputElement).disabled).toBe(false));
  await user.type(day, '2027-01-15');
  await user.click(screen.getByRole('button', { name: 'Keep' }));
  expect(await screen.findByText('A build of Gauge is 40 boards, on 2027-01-15.')).toBeTruthy();
  expect(sent.at(-1)?.body).toEqual({ boards: 40, due: '2027-01-15' });
});
