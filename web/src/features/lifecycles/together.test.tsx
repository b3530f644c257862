// @vitest-environment jsdom
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service as answering, show } from '../../ui/testing';
import { TogetherPage } from './TogetherPage';

const item = (key: string, label: string, text: string, mine = false) => ({ key, label, text, value: text, mine, by: [], changed: false });
const part = (n: number, ohms: string) => ({
  id: `p${n}`,
  number: `EW-R-0000${n}`,
  kind: 'part',
  version: n + 3,
  open: 2,
  items: [item('values.case', 'Case', '0805'), item('values.resistance', 'Resistance', ohms)],
  signed: [],
  datasheets: [{ hash: 'h', name: 'series.pdf' }],
});
const together = {
  sheet: { hash: 'h', name: 'series.pdf' },
  alike: [item('values.case', 'Case', '0805')],
  differ: [{ label: 'Resistance', items: ['values.resistance', 'values.resistance'] }],
  parts: [part(1, '1 kΩ'), part(2, '2.2 kΩ')],
};
const service = (of: object = together) =>
  answering(['thing.review', 'thing.move'], {
    '/things/p1/review/together': of,
    'POST /reviews/ticks': { things: [] },
    'POST /reviews/signatures': { things: [] },
    '/lifecycles': { items: [] },
  });

it('ticks what is alike on all parts at once, and the rest part by part, by keyboard', async () => {
  const sent = service();
  show(<TogetherPage />, '/review/p1/together', '/review/:id/together');
  const grid = await screen.findByRole('grid', { name: 'Review lists' });
  grid.focus();
  await userEvent.keyboard(' ');
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({
    path: '/reviews/ticks',
    body: { things: [{ id: 'p1', version: 4 }, { id: 'p2', version: 5 }], items: ['values.case'], untick: false }, // prettier-ignore
  });
  await userEvent.keyboard('{ArrowDown}{ArrowDown}{ArrowRight} ');
  await waitFor(() => expect(sent).toHaveLength(2));
  expect(sent[1]).toMatchObject({ body: { things: [{ id: 'p2', version: 5 }], items: ['values.resistance'], untick: false } });
});

it('signs those that are not left out, against the page that is open, and says what was not ticked', async () => {
  const sent = service();
  show(<TogetherPage />, '/review/p1/together', '/review/:id/together');
  await userEvent.click(await screen.findByText('EW-R-00002'));
  await userEvent.click(screen.getByRole('button', { name: 'Sign 1…' }));
  expect(screen.getByRole('textbox', { name: /Laid beside/ })).toHaveProperty('value', 'series.pdf, page 1');
  await userEvent.click(screen.getByRole('checkbox', { name: 'I looked at the 2 open items too' }));
  await userEvent.click(screen.getByRole('button', { name: 'Sign 1 review' }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({
    path: '/reviews/signatures',
    body: { things: [{ id: 'p1', version: 4 }], against: 'series.pdf, page 1', all: true },
  });
});

it('says so where nothing waits with that datasheet', async () => {
  service({ ...together, alike: [], differ: [], parts: [] });
  show(<TogetherPage />, '/review/p1/together', '/review/:id/together');
  expect(await screen.findByText('Nothing with this datasheet waits for you')).toBeTruthy();
});

// The list is asked for anew after each tick, and what comes may be older than the tick: an answer that was overtaken by an event.
it('sends no tick on versions that its own ticks have made old, and loses none', async () => {
  const after = (n: number, ohms: string) => {
    const p = part(n, ohms);
    return { ...p, version: p.version + 1, items: p.items.map((i) => ({ ...i, mine: i.key === 'values.case' })) };
  };
  let now: object = together;
  const sent = answering(['thing.review', 'thing.move'], {
    '/things/p1/review/together': () => now,
    'POST /reviews/ticks': async (said: unknown) => {
      await new Promise((done) => setTimeout(done, 50)); // others press on meanwhile
      return { things: (said as { things: { id: string; version: number }[] }).things.map((x) => ({ id: x.id, version: x.version + 1 })) };
    },
    '/lifecycles': { items: [] },
  });
  show(<TogetherPage />, '/review/p1/together', '/review/:id/together');
  (await screen.findByRole('grid', { name: 'Review lists' })).focus();
  await userEvent.keyboard(' {ArrowDown}{ArrowDown}{ArrowRight} ');
  await waitFor(() => expect(sent).toHaveLength(1));
  await new Promise((done) => setTimeout(done, 300)); // the old list came, and nothing is sent on it
  expect(sent).toHaveLength(1);
  now = { ...together, alike: [item('values.case', 'Case', '0805', true)], parts: [after(1, '1 kΩ'), after(2, '2.2 kΩ')] };
  window.dispatchEvent(new Event('visibilitychange')); // the page asks anew
  await waitFor(() => expect(sent).toHaveLength(2));
  expect(sent[1]).toMatchObject({ body: { things: [{ id: 'p2', version: 6 }], items: ['values.resistance'], untick: false } });
});
