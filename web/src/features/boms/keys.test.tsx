// @vitest-environment jsdom
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { Refusal, service, show, tall } from '../../ui/testing';
import { BomPage } from './BomPage';

tall();

const part = (n: number) => ({
  id: `p${String(n)}`, number: `EW-R-${String(n)}`, description: 'RES 1k', standing: 'active', revision: 1, manufacturer: 'Tidewright', mpn: `TW-${String(n)}`, sources: [],
}); // prettier-ignore
const line = (row: number, verdict: string, more = {}) => ({
  row, designators: [`R${String(row)}`], written: `R${String(row)}`, quantity: 1, verdict, findings: [], options: [], evidence: [], tally: [], value: '1k', package: '0805', mpn: '', manufacturer: '', description: '', ...more,
}); // prettier-ignore
const page = {
  id: 'b1', name: 'Lamp', version: 3, build: 0, revision: 0, counts: {}, hindered: {}, causes: [], skipped: [], columns: [], findings: 0, fileName: 'lamp.csv', variants: [], buying: {},
  lines: [line(2, 'linked', { part: part(9) }), line(3, 'several', { options: [part(1), part(2), part(3)] }), line(4, 'not in the library'), line(5, 'proposed', { part: part(4) })],
}; // prettier-ignore
const wanted: (string | null)[] = [];
const served = (rights: string[]) =>
  service(rights, {
    '/boms/Lamp': page,
    'POST /boms/b1/choices': { ...page, version: 4 },
    'POST /boms/Lamp/wants': (_: unknown, q: URLSearchParams) => (wanted.push(q.get('row')), { wants: 1, numbers: ['W-00007'] }),
  });

it('answers a board by one key each, from the first open line on', async () => {
  const user = userEvent.setup();
  const sent = served(['bom.edit', 'want.make']);
  show(<BomPage />, '/boms/Lamp', '/boms/:key');
  await screen.findByLabelText('Lines');
  await user.keyboard('gn'); // to another room: nothing is opened here
  expect(screen.queryByRole('dialog')).toBeNull();
  await user.keyboard('n');
  expect(await screen.findByRole('dialog', { name: 'Row 3: R3' })).toBeTruthy();
  await user.keyboard('4'); // there are three
  await user.keyboard('2');
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ choose: [{ row: 3, part: 'p2' }] }));
  expect(await screen.findByRole('dialog', { name: 'Row 4: R4' })).toBeTruthy();
  await user.keyboard('a'); // nothing is proposed
  await user.keyboard('w');
  await waitFor(() => expect(wanted).toEqual(['4']));
  expect(await screen.findByRole('dialog', { name: 'Row 5: R5' })).toBeTruthy();
  await user.keyboard('c');
  expect(document.activeElement).toBe(screen.getByLabelText('Another part'));
  await user.keyboard('EW-R-77{Enter}');
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ choose: [{ row: 5, part: 'EW-R-77' }] }));
});

it('goes to make what a line says', async () => {
  const user = userEvent.setup();
  const sent = served(['bom.edit']);
  show(<BomPage />, '/boms/Lamp', '/boms/:key');
  await screen.findByLabelText('Lines');
  await user.keyboard('nn');
  expect(await screen.findByRole('dialog', { name: 'Row 4: R4' })).toBeTruthy();
  expect(screen.queryByText(/w: want it/)).toBeNull();
  await user.keyboard('w');
  expect(screen.getByRole('link', { name: 'make the part' }).getAttribute('href')).toBe('/parts/new?read=1k%200805&back=%2Fboms%2FLamp');
  await user.keyboard('m');
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  expect(sent).toEqual([]);
});

it('says of a line that it is wanted already, and of no other', async () => {
  const user = userEvent.setup();
  service(['bom.edit', 'want.make'], {
    '/boms/Lamp': page,
    'POST /boms/Lamp/wants': new Refusal(422, 'not-wanted', 'What row 3 of Lamp asks for is wanted already: W-00002.'),
  });
  show(<BomPage />, '/boms/Lamp', '/boms/:key');
  await screen.findByLabelText('Lines');
  await user.keyboard('nw');
  expect(await screen.findAllByText(/wanted already: W-00002/)).toHaveLength(1);
  await user.keyboard('n');
  expect(await screen.findByRole('dialog', { name: 'Row 4: R4' })).toBeTruthy();
  expect(screen.queryByText(/wanted already/)).toBeNull();
});

it('is deaf to who may only read, but for going on', async () => {
  const user = userEvent.setup();
  const sent = served([]);
  show(<BomPage />, '/boms/Lamp', '/boms/:key');
  await screen.findByLabelText('Lines');
  await user.keyboard('n21acwm');
  expect(await screen.findByRole('dialog', { name: 'Row 3: R3' })).toBeTruthy();
  expect(sent).toEqual([]);
});
