// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { Refusal, service, show, tall } from '../../ui/testing';
import { BomPage } from './BomPage';
import { laidOver, taken, type BOM } from './queries';

tall();

const part = {
  id: 'p1',
  number: 'EW-R-1',
  description: 'RES 1k',
  standing: 'active',
  revision: 1,
  manufacturer: 'Tidewright',
  mpn: 'TW-1',
  sources: [],
};
const line = (row: number, verdict: string, more = {}) => ({
  row, designators: [`R${String(row)}`], written: `R${String(row)}`, quantity: 1, verdict, findings: [], options: [], evidence: [], tally: [], value: '1k', package: '', mpn: '', description: '', ...more,
}); // prettier-ignore
const bom = (version: number, lines: unknown[], more = {}) =>
  ({ id: 'b1', name: 'Lamp', version, build: 0, revision: 0, counts: {}, hindered: {}, causes: [], skipped: [], columns: [], findings: 0, fileName: 'lamp.csv', variants: [], buying: {}, lines, ...more }); // prettier-ignore
const page = bom(3, [line(2, 'proposed', { part }), line(3, 'proposed', { part }), line(4, 'not in the library')]);

it('lays an answer of some lines over the page, and keeps the others', () => {
  const after = laidOver(page as unknown as BOM, bom(4, [line(3, 'linked')], { partial: true, findings: 7 }) as unknown as BOM);
  expect(after.lines.map((l) => [l.row, l.verdict])).toEqual([
    [2, 'proposed'],
    [3, 'linked'],
    [4, 'not in the library'],
  ]);
  expect([after.version, after.findings, after.partial]).toEqual([4, 7, undefined]);
});

it('asks for what is otherwise where the page is shown, and goes on to the next open line of the whole page', async () => {
  const user = userEvent.setup();
  const asked: (string | null)[] = [];
  let whole: unknown = page;
  const sent = service(['bom.edit'], {
    '/boms/Lamp': () => whole,
    'POST /boms/b1/choices': (_: unknown, q: URLSearchParams) => {
      asked.push(q.get('lines'));
      whole = bom(4, [line(2, 'linked', { part }), line(3, 'proposed', { part }), line(4, 'not in the library')]);
      return bom(4, [line(2, 'linked', { part })], { partial: true });
    },
  });
  show(<BomPage />, '/boms/Lamp', '/boms/:key');
  const table = await screen.findByLabelText('Lines');
  await user.click(await within(table).findByText('R2'));
  await user.click(await screen.findByRole('button', { name: 'Use this part' }));
  expect(await screen.findByRole('dialog', { name: 'Row 3: R3' })).toBeTruthy();
  expect(asked).toEqual(['otherwise']);
  expect(sent.at(-1)).toMatchObject({ match: '"3"', body: { choose: [{ row: 2, part: 'p1' }] } });
});

it('says that a line is another board, of one variant', async () => {
  const user = userEvent.setup();
  const board = { id: 'b2', name: 'Head', revision: 2, label: 'B', variant: 'West', lines: 12 };
  const sent = service(['bom.edit'], {
    '/boms/Lamp': page,
    '/boms': { items: [page, { ...bom(1, []), id: 'b2', name: 'Head', revision: 2 }, { ...bom(1, []), id: 'b3', name: 'Mast' }] },
    'POST /boms/b1/choices': bom(4, [line(4, 'another BOM', { board })], { partial: true }),
  });
  show(<BomPage />, '/boms/Lamp', '/boms/:key');
  const table = await screen.findByLabelText('Lines');
  await user.click(await within(table).findByText('R4'));
  await user.click(await screen.findByRole('button', { name: 'It is another board…' }));
  const which = await screen.findByLabelText('BOM');
  const offered = () => [...document.querySelectorAll('#other-boards option')].map((o) => o.getAttribute('value'));
  await waitFor(() => expect(offered()).toEqual(['Head', 'Mast']));
  expect(screen.getByRole('button', { name: 'Take this board' })).toHaveProperty('disabled', true);
  await user.type(which, ' Head ');
  await user.type(screen.getByLabelText(/^Variant/), ' West ');
  await user.click(screen.getByRole('button', { name: 'Take this board' }));
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ choose: [{ row: 4, board: 'Head', variant: 'West' }] }));
  expect(await within(table).findByText(taken(board))).toBeTruthy();
});

it('shows a refusal where a board would be made of itself, and leaves the page as it was', async () => {
  const user = userEvent.setup();
  service(['bom.edit'], {
    '/boms/Lamp': page,
    '/boms': { items: [{ ...bom(1, []), id: 'b2', name: 'Head' }] },
    'POST /boms/b1/choices': new Refusal(422, 'bom-circle', 'The board would be made of itself: it is, or is in, Head.'),
  });
  show(<BomPage />, '/boms/Lamp', '/boms/:key');
  const table = await screen.findByLabelText('Lines');
  await user.click(await within(table).findByText('R4'));
  await screen.findByRole('dialog', { name: 'Row 4: R4' });
  await user.keyboard('b');
  await user.type(await screen.findByLabelText('BOM'), 'Head');
  await user.click(screen.getByRole('button', { name: 'Take this board' }));
  const dialog = screen.getByRole('dialog', { name: 'Row 4: R4' });
  expect(await within(dialog).findByText(/made of itself/)).toBeTruthy();
  expect(within(table).getByText('not in the library')).toBeTruthy();
});
