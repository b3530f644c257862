// @vitest-environment jsdom
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it, vi } from 'vitest';
import { Refusal, service, show } from '../../ui/testing';
import { sheets } from './sheets';
import { SheetsDialog } from './SheetsDialog';

const own = [
  { name: 'Order', of: 'purchase', columns: 5 },
  { name: 'All of it', of: 'lines', columns: 3 },
];

it('offers the sheets of the house beside the usual ones, where they can be made', () => {
  const texts = (list: { text: string }[]) => list.map((i) => i.text);
  expect(texts(sheets('b1', {}, own)).slice(-6)).toEqual(['Order, XLSX', 'Order, CSV', 'Order, PDF', 'All of it, XLSX', 'All of it, CSV', 'All of it, PDF']); // prettier-ignore
  expect(texts(sheets('b1', { revision: 2 }, own))).not.toContain('All of it, XLSX');
  expect(texts(sheets('b1', { boards: 4 }, own, ['purchase']))).toEqual(['For purchasing, XLSX', 'For purchasing, CSV', 'For purchasing, PDF', 'Order, XLSX', 'Order, CSV', 'Order, PDF']); // prettier-ignore
  const assign = vi.fn();
  vi.stubGlobal('location', { assign });
  sheets('b 1', { boards: 4, variant: 'Lite' }, own, ['purchase'])
    .find((i) => i.text === 'Order, PDF')
    ?.onSelect();
  expect(assign).toHaveBeenCalledExactlyOnceWith('/api/v1/boms/b%201/export?form=Order&format=pdf&boards=4&variant=Lite');
});

it('puts a document in force on the version that was seen, and says what is wrong with it', async () => {
  const user = userEvent.setup();
  let answer: unknown = new Refusal(
    422,
    'sheets-wrong',
    'The sheets cannot be taken: the sheet "Order": columns[0].take: there is no column "Price".',
  );
  const sent = service(['sheets.apply'], {
    '/bom-sheets': { version: 2, text: 'format: jolly-sheets/1\n', sheets: own },
    'PUT /bom-sheets': () => answer,
  });
  const onClose = vi.fn();
  show(<SheetsDialog mayApply onClose={onClose} />);
  expect(await screen.findByRole('row', { name: 'Order 5 columns of purchase' })).toBeTruthy();
  const apply = screen.getByRole('button', { name: 'Put it in force' });
  expect(apply).toHaveProperty('disabled', true);
  await user.type(screen.getByLabelText('Document'), 'more');
  await user.click(apply);
  expect(await screen.findByText(/no column "Price"/)).toBeTruthy();
  expect(onClose).not.toHaveBeenCalled();
  answer = { version: 3, text: '', sheets: [own[0]] };
  await user.click(apply);
  await waitFor(() => expect(onClose).toHaveBeenCalledOnce());
  expect(sent.at(-1)).toMatchObject({ match: '"2"', body: { text: 'format: jolly-sheets/1\nmore' } });
  expect(await screen.findByText('Every BOM is exported as 1 sheet more.')).toBeTruthy();
});

it('shows who may not change it the document alone', async () => {
  service([], { '/bom-sheets': { version: 0, text: 'format: jolly-sheets/1\n', sheets: [] } });
  show(<SheetsDialog mayApply={false} onClose={() => undefined} />);
  expect(await screen.findByText(/None yet/)).toBeTruthy();
  expect(screen.getByLabelText('Document')).toHaveProperty('readOnly', true);
  expect(screen.queryByRole('button', { name: 'Put it in force' })).toBeNull();
});
