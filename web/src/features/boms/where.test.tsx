// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { Refusal, service, show, tall } from '../../ui/testing';
import { WherePage } from './WherePage';

tall();

const part = (number: string) => ({ id: number, number, description: `RES ${number}`, standing: 'active', revision: 1, manufacturer: 'T', mpn: 'T1', sources: [] }); // prettier-ignore
const on = (name: string, revision = 0) => ({ bom: name, name, revision, rows: [2], designators: ['R1', 'R2'], pieces: 2, partRevision: 1, build: revision ? undefined : 40, yearly: revision ? undefined : 500 }); // prettier-ignore
const used = (more = {}) => ({ page: { offset: 0, limit: 25, total: 1 }, boards: 2, items: [{ part: part('EW-R-1'), boards: [on('Gauge'), on('Buoy'), on('Gauge', 1)], ...more }] }); // prettier-ignore
const board = (name: string) => ({ bom: name, name, rows: [2], designators: ['R1', 'R2'], against: ['mpn: T1 against K1'] });

it('says on which boards and revisions a part is, and how many a build and a year take', async () => {
  service([], { '/where-used': used() });
  show(<WherePage />, '/where-used?part=EW-R-1', '/where-used');
  const rows = within(await screen.findByRole('region', { name: 'EW-R-1' })).getAllByRole('row');
  expect(rows.map((r) => r.textContent).slice(1)).toEqual([
    'Gaugeit stands nowR1, R2280500',
    'Buoyit stands nowR1, R2280500',
    'Gaugerevision 1, pinned to revision 1R1, R22',
  ]);
  expect(screen.getByText('1 part on 2 boards as they stand now')).toBeTruthy();
});

it('asks only when something is named, and puts the question into the address', async () => {
  const user = userEvent.setup();
  const sent = service([], { '/where-used': { page: { offset: 0, limit: 200, total: 0 }, boards: 0, items: [] } });
  show(<WherePage />, '/where-used', '/where-used');
  expect((await screen.findByRole('button', { name: 'Find' })).hasAttribute('disabled')).toBe(true);
  await user.selectOptions(screen.getByLabelText('Of a'), 'maker');
  await user.type(screen.getByLabelText('Name'), 'Tidewright{Enter}');
  expect(await screen.findByText('No board takes such a part')).toBeTruthy();
  expect(sent).toEqual([]); // it writes nothing
});

it('replaces on the boards that are left ticked, as they were looked at', async () => {
  const user = userEvent.setup();
  const whole = {
    from: part('EW-R-1'),
    to: part('EW-R-2'),
    boards: [board('Gauge'), board('Buoy')],
    differs: ['Tolerance: ±5 %, and was ±1 %'],
    digest: 'all',
    done: false,
  };
  const sent = service(['bom.edit'], {
    '/where-used': used({ needs: 160, left: [], instead: [{ part: part('EW-R-2'), why: 'its successor', against: [], differs: ['Tolerance: ±5 %, and was ±1 %'] }] }), // prettier-ignore
    'POST /replacements': (said: { boms?: string[]; digest?: string }) => (said.digest ? { ...whole, boards: [board('Gauge')], done: true } : said.boms ? { ...whole, digest: 'some' } : whole), // prettier-ignore
  });
  show(<WherePage />, '/where-used?part=EW-R-1&instead=1', '/where-used');
  expect(await screen.findByText(/for the 160 pieces that one build of all boards takes/)).toBeTruthy();
  expect(screen.getByText('no price is known')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Replace…' }));
  expect(await screen.findByText(/It is otherwise in what matters: Tolerance/)).toBeTruthy();
  await user.click(screen.getByRole('checkbox', { name: 'Buoy' }));
  await user.type(screen.getByLabelText(/^Why/), 'its maker stops');
  const go = screen.getByRole('button', { name: 'Replace on 1 board' });
  await waitFor(() => expect(go.hasAttribute('disabled')).toBe(false));
  await user.click(go);
  expect(await screen.findByText('EW-R-2 is in the place of EW-R-1 on 1 board.')).toBeTruthy();
  expect(sent.at(-1)?.body).toEqual({ part: 'EW-R-1', with: 'EW-R-2', boms: ['Gauge'], reason: 'its maker stops', digest: 'some' });
});

it('says what hinders it, and keeps the reason that was typed', async () => {
  const user = userEvent.setup();
  const whole = { from: part('EW-R-1'), to: part('EW-R-2'), boards: [board('Gauge')], differs: [], digest: 'all', done: false };
  service(['bom.edit'], {
    '/where-used': used({ needs: 1, left: [], instead: [] }),
    'POST /replacements': (said: { digest?: string }) =>
      said.digest ? new Refusal(409, 'preview-behind', 'The boards are other than what you looked at.') : whole,
  });
  show(<WherePage />, '/where-used?part=EW-R-1&instead=1', '/where-used');
  await user.click(await screen.findByRole('button', { name: 'Replace with another part…' }));
  await user.type(screen.getByLabelText('The part that takes its place'), 'EW-R-2{Enter}');
  await user.type(await screen.findByLabelText(/^Why/), 'it stops');
  await user.click(screen.getByRole('button', { name: 'Replace on 1 board' }));
  expect(await screen.findByText(/other than what you looked at/)).toBeTruthy();
  expect(screen.getByLabelText<HTMLInputElement>(/^Why/).value).toBe('it stops');
});
