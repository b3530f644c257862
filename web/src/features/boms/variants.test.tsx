// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it, vi } from 'vitest';
import { Refusal, service, show, tall } from '../../ui/testing';
import { BomComparePage } from './ComparePage';
import { BomPage } from './BomPage';
import { ColumnsDialog } from './ColumnsDialog';
import { CostPage } from './CostPage';
import type { BOM } from './queries';

tall();

const line = (row: number, verdict: string, of?: string[]) => ({
  row, designators: [`R${String(row)}`], written: `R${String(row)}`, quantity: 1, verdict, in: of, findings: [], options: [], evidence: [], tally: [],
}); // prettier-ignore
const bom = (lines: unknown[], more = {}) => ({
  id: 'b1', name: 'Lamp', version: 3, build: 40, revision: 0, counts: { linked: 2 }, hindered: {}, causes: [], skipped: [], columns: [], findings: 0, fileName: 'lamp.csv', variants: ['Harbour', 'Open sea'], buying: {}, lines, ...more,
}); // prettier-ignore

it('shows the lines of one variant, which stands in the address, and says which is built', async () => {
  const user = userEvent.setup();
  const sent = service(['bom.edit'], {
    '/boms/Lamp': (_: unknown, q: URLSearchParams) =>
      q.get('variant') === 'Harbour'
        ? bom([line(2, 'linked'), line(3, 'not fitted', ['Open sea'])], { shown: 'Harbour' })
        : bom([line(2, 'linked'), line(3, 'linked', ['Open sea'])]),
    'POST /boms/b1/build': bom([], { variant: 'Harbour' }),
  });
  const router = show(<BomPage />, '/boms/Lamp', '/boms/:key');
  const table = await screen.findByLabelText('Lines');
  expect(within(table).getByText('Open sea')).toBeTruthy();
  expect(within(table).getByText('all')).toBeTruthy();
  expect(within(table).queryByText('not fitted')).toBeNull();
  await user.selectOptions(screen.getByLabelText('Lines of the variant'), 'Harbour');
  expect(await within(table).findByText('not fitted')).toBeTruthy();
  expect(router.state.location.search).toBe('?variant=Harbour');
  await user.selectOptions(screen.getByLabelText('Built as'), 'Harbour');
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ boards: 40, variant: 'Harbour' }));
  expect(await screen.findByText('Lamp is built as Harbour.')).toBeTruthy();
});

it('asks which variant a cost is of where nobody said which is built, and asks the service for none before', async () => {
  const user = userEvent.setup();
  const asked: (string | null)[] = [];
  service(['bom.edit'], {
    '/boms/Lamp': bom([]),
    '/boms/Lamp/cost': (_: unknown, q: URLSearchParams) => {
      asked.push(q.get('variant'));
      return new Refusal(404, 'gone', `asked for ${q.get('variant') ?? 'none'}`);
    },
  });
  show(<CostPage />, '/boms/Lamp/cost', '/boms/:key/cost');
  expect(await screen.findByText('Choose a variant')).toBeTruthy();
  await user.selectOptions(screen.getByLabelText('Variant'), 'Open sea');
  expect(await screen.findByText(/asked for Open sea/)).toBeTruthy();
  expect(asked).not.toContain(null);
});

it('lays two variants of a board beside each other', async () => {
  const user = userEvent.setup();
  const change = {
    what: ['variant'],
    designators: ['R3'],
    before: { row: 3, designators: ['R3'], quantity: 1, value: '10k', in: ['Harbour'] },
  };
  service([], {
    '/boms/Lamp': bom([]),
    '/boms/Lamp/compare': (_: unknown, q: URLSearchParams) => ({
      from: 'Lamp', to: `Lamp, variant ${q.get('with-variant') ?? 'none'}`, same: 4, changes: [change], renumbered: [], boards: 1, before: { board: '', missing: 0 }, after: { board: '', missing: 0 },
    }),
  }); // prettier-ignore
  show(<BomComparePage />, '/boms/Lamp/compare?revision=0', '/boms/:key/compare');
  expect(await screen.findByText('10k, in Harbour')).toBeTruthy();
  expect(screen.getAllByText(/other variants/).length).toBeGreaterThan(0);
  await user.selectOptions(screen.getByLabelText('Variant after'), 'Open sea');
  expect(await screen.findByText(/variant Open sea/)).toBeTruthy();
});

it('says of which variant a column is', async () => {
  const user = userEvent.setup();
  const onSay = vi.fn();
  const column = { at: 3, heading: 'Lite', role: '', meaning: '', because: 'nothing is known of its heading' };
  show(
    <ColumnsDialog
      bom={bom([], { columns: [column] }) as unknown as BOM}
      busy={false}
      error={null}
      onClose={() => undefined}
      onSay={onSay}
    />,
  );
  expect(screen.queryByLabelText('The variant that Lite is of')).toBeNull();
  await user.selectOptions(screen.getByLabelText('What Lite is'), 'fit');
  await user.type(screen.getByLabelText('The variant that Lite is of'), ' Lite ');
  await user.click(screen.getByRole('button', { name: 'Change 1 and confirm the rest' }));
  expect(onSay).toHaveBeenCalledWith([{ at: 3, role: 'fit', variant: 'Lite' }]);
});
