// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { Refusal, service, show } from '../../ui/testing';
import { BomList } from './BomList';
import { boardIn, variantsIn } from './FilesField';

const list = { page: { offset: 0, limit: 200, total: 0 }, items: [] };
const files = ['Mast east rev-A.csv', 'Mast west rev-A.csv'].map((n) => new File([`Ref\n${n}`], n));

describe('names of files of variants', () => {
  it.each<[string[], string[], string]>([
    [['mast-east.csv', 'mast-west.xlsx'], ['east', 'west'], 'mast'],
    [['Mast (230 V).csv', 'Mast (110 V).csv'], ['230', '110'], 'Mast V'],
    [['Lamp rev B.csv', 'lamp_rev_B_radio.csv'], ['', ''], 'Lamp rev B'],
    [['a.csv', 'b.csv', 'c.csv'], ['a', 'b', 'c'], ''],
    [['a.csv', 'A.csv'], ['', ''], 'a'],
    [['tide.logger.csv'], [''], 'tide.logger'],
  ])('%j are the variants %j of %s', (names, variants, board) => {
    expect(variantsIn(names)).toEqual(variants);
    expect(boardIn(names)).toBe(board);
  });
});

describe('bringing in a BOM', () => {
  async function dialog() {
    const user = userEvent.setup();
    show(<BomList />, '/boms', '/boms');
    await user.click(await screen.findByRole('button', { name: 'Bring in a BOM…' }));
    return user;
  }
  const kept = (_: unknown, asked: URLSearchParams) => ({ hash: `hash of ${asked.get('name') ?? ''}`, name: asked.get('name'), size: 9 });

  // The document of tests does not see that a file was chosen, and would hold the form back.
  const reconcile = () => fireEvent.submit(screen.getByRole('button', { name: 'Reconcile' }));

  it('takes one file', async () => {
    const sent = service(['bom.edit'], { '/boms': list, 'POST /files': kept, 'POST /boms': { name: 'Lamp', lines: [] } });
    const user = await dialog();
    await user.upload(screen.getByLabelText(/^File/), new File(['Ref\nLamp.csv'], 'Lamp.csv'));
    expect(screen.queryByLabelText(/^Variant of/)).toBeNull();
    reconcile();
    await waitFor(() => expect(sent.at(-1)).toMatchObject({ path: '/boms', body: { name: 'Lamp', fileHash: 'hash of Lamp.csv', fileName: 'Lamp.csv' } })); // prettier-ignore
  });

  it('takes one of each variant, under names that it finds in theirs and one can change', async () => {
    const sent = service(['bom.edit'], { '/boms': list, 'POST /files': kept, 'POST /boms': { name: 'Mast', lines: [] } });
    const user = await dialog();
    await user.upload(screen.getByLabelText(/^File/), files);
    const west = await screen.findByLabelText('Variant of Mast west rev-A.csv');
    expect(west).toHaveProperty('value', 'west');
    await user.clear(west);
    await user.type(west, 'West coast');
    expect(screen.getByLabelText('Board and revision')).toHaveProperty('value', 'Mast rev A');
    reconcile();
    await waitFor(() =>
      expect(sent.at(-1)?.body).toEqual({
        name: 'Mast rev A',
        files: [
          { variant: 'east', fileHash: 'hash of Mast east rev-A.csv', fileName: 'Mast east rev-A.csv' },
          { variant: 'West coast', fileHash: 'hash of Mast west rev-A.csv', fileName: 'Mast west rev-A.csv' },
        ],
      }),
    );
  });

  it('says why files cannot be put together', async () => {
    service(['bom.edit'], {
      '/boms': list,
      'POST /files': kept,
      'POST /boms': new Refusal(422, 'not-together', 'The files of the variants cannot be put together.'),
    });
    const user = await dialog();
    await user.upload(screen.getByLabelText(/^File/), files);
    reconcile();
    expect(await screen.findByText(/cannot be put together/)).toBeTruthy();
    expect(screen.getByLabelText('Variant of Mast east rev-A.csv')).toHaveProperty('value', 'east');
  });
});
