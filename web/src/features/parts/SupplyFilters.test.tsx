// @vitest-environment jsdom
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { expect, test } from 'vitest';
import { readAddress, writeAddress, type Looking } from './lookup';
import { SupplyFilters } from './SupplyFilters';

/** The filters over an address, as the page has them. */
function Page({ at }: { at: string }) {
  const [looking, set] = useState<Looking>(readAddress(new URLSearchParams(at)));
  return (
    <>
      <SupplyFilters looking={looking} onChange={(c) => set({ ...looking, ...c })} />
      <output>{writeAddress(looking).toString()}</output>
    </>
  );
}

const address = () => decodeURIComponent(screen.getByRole('status').textContent);

test('takes a number when Enter is pressed or the field is left, and lets go of it when it is emptied', async () => {
  const user = userEvent.setup();
  render(<Page at="q=4k7&f=case:0805" />);
  await user.type(screen.getByLabelText('In stock at least'), '250{Enter}');
  expect(address()).toBe('q=4k7&f=case:0805&f=offer.stock:250..');
  await user.type(screen.getByLabelText('Price at most'), '0,50');
  expect(address()).not.toContain('price');
  await user.tab();
  expect(address()).toContain('f=offer.price:..0.50');
  await user.clear(screen.getByLabelText('In stock at least'));
  await user.tab();
  expect(address()).toBe('q=4k7&f=case:0805&f=offer.price:..0.50');
});

test('shows what the address says, and puts back what is no number', async () => {
  const user = userEvent.setup();
  render(<Page at="f=offer.lead:..14&f=offer.stock:100..&pieces=250" />);
  const lead = screen.getByLabelText('Lead time at most (days)');
  expect(lead).toHaveProperty('value', '14');
  expect(screen.getByLabelText('In stock at least')).toHaveProperty('value', '100');
  await user.clear(lead);
  await user.type(lead, 'soon{Enter}');
  expect(lead).toHaveProperty('value', '14');
  const pieces = screen.getByLabelText('Prices are of (pieces)');
  await user.clear(pieces);
  await user.type(pieces, '0{Enter}');
  expect(address()).toBe('f=offer.lead:..14&f=offer.stock:100..');
});
