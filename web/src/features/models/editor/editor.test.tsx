// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show, tall } from '../../../ui/testing';
import { DrawingEditor } from './DrawingEditor';
import { type Change } from './steps';

tall();

const columns = [
  { key: 'number', name: 'Number', is: 'text' },
  { key: 'type', name: 'Type', is: 'choice', choices: ['input', 'output', 'passive'] },
  { key: 'x', name: 'X', is: 'length' },
];
const pin = (n: number) => ({ number: String(n), type: 'passive', at: { x: '0', y: String(-n) }, runs: 'right', length: '2' });

/** What the service answers: so many pins, of which some are chosen. */
function tried(count: number, selected: number[], more: object = {}) {
  const pins = Array.from({ length: count }, (_, i) => pin(i + 1));
  return {
    symbol: { pins },
    lists: [
      { of: 'pins', columns, rows: pins.map((p, i) => ({ cells: [p.number, p.type, String(i)], box: [0, -i, 2, -i] })) },
      { of: 'graphics', columns: [], rows: [] },
    ],
    selected,
    svg: '<svg xmlns="http://www.w3.org/2000/svg"/>',
    view: [-5, -5, 5, 5],
    step: '1.27',
    findings: [],
    fit: [],
    ...more,
  };
}

/** Opens the editor on a service that answers each change with what comes next. */
function open(answers: object[]) {
  let n = 0;
  const sent = service(['model.edit'], {
    get 'POST /drawing-tries'() {
      return answers[Math.min(n++, answers.length - 1)];
    },
    'POST /models': { id: 'm1', name: 'Made' },
  });
  show(<DrawingEditor />, '/models/draw?kind=symbol', '/models/draw');
  const asked = () => sent.filter((s) => s.path === '/drawing-tries').flatMap((s) => (s.body as { changes: Change[] }).changes);
  return { sent, asked };
}
const grid = () => screen.findByRole('grid');

it('writes what is typed into all chosen rows, and tells by keys what is to be done with them', async () => {
  const user = userEvent.setup();
  const { asked } = open([tried(3, []), tried(3, [0, 1])]);
  (await grid()).focus();
  await user.keyboard('{Shift>}{ArrowDown}{/Shift}{ArrowRight}{ArrowRight}');
  await user.keyboard('5.08{Enter}');
  await waitFor(() => expect(asked()).toContainEqual({ do: 'set', of: 'pins', rows: [0, 1], column: 'x', value: '5.08' }));
  await user.keyboard('{ArrowLeft}o');
  await waitFor(() => expect(asked()).toContainEqual({ do: 'set', of: 'pins', rows: [0, 1], column: 'type', value: 'output' }));
  await user.keyboard('{Alt>}{ArrowUp}{/Alt}');
  await waitFor(() => expect(asked()).toContainEqual({ do: 'move', of: 'pins', rows: [0, 1], by: { x: '0', y: '1.27' } }));
  await user.keyboard('{Delete}');
  await waitFor(() => expect(asked()).toContainEqual({ do: 'remove', of: 'pins', rows: [0, 1] }));
  await user.keyboard('{Insert}');
  await waitFor(() => expect(asked().at(-1)).toMatchObject({ do: 'add', of: 'pins' }));
});

it('takes a pasted column down the rows, as far as there are some', async () => {
  const { asked } = open([tried(2, [])]);
  fireEvent.paste(await grid(), { clipboardData: { getData: () => 'A1\r\nA2\r\nA3\r\n' } });
  await waitFor(() => expect(asked()).toContainEqual({ do: 'set', of: 'pins', rows: [0, 1], column: 'number', values: ['A1', 'A2'] }));
});

it('leaves a cell as it was after Escape', async () => {
  const user = userEvent.setup();
  const { asked } = open([tried(2, [])]);
  (await grid()).focus();
  await user.keyboard('{Enter}');
  await user.keyboard('9{Escape}');
  await user.keyboard('{Enter}{Enter}');
  expect(asked()).toEqual([]);
});

it('goes back and forth without asking again, and keeps what is there as a draft', async () => {
  const user = userEvent.setup();
  const { sent, asked } = open([tried(0, []), tried(1, [0]), tried(2, [1])]);
  (await grid()).focus();
  await user.keyboard('{Insert}');
  await screen.findByRole('tab', { name: 'pins 1' });
  (await grid()).focus();
  await user.keyboard('{Insert}');
  await screen.findByRole('tab', { name: 'pins 2' });
  const before = sent.length;
  await user.keyboard('{Control>}z{/Control}');
  await screen.findByRole('tab', { name: 'pins 1' });
  await user.keyboard('{Control>}y{/Control}');
  await screen.findByRole('tab', { name: 'pins 2' });
  expect(sent.length).toBe(before);
  expect(asked()).toHaveLength(2);
  expect(screen.getByRole('button', { name: 'Keep the draft' })).toHaveProperty('disabled', true); // it has no name
  await user.type(screen.getByLabelText('Name of the symbol'), 'Made');
  await user.click(screen.getByRole('button', { name: 'Keep the draft' }));
  await waitFor(() =>
    expect(sent.find((s) => s.path === '/models')?.body).toMatchObject({
      kind: 'symbol',
      name: 'Made',
      symbol: { pins: [{ number: '1' }, { number: '2' }] },
    }),
  );
});

it('shows one finding of each cause, and settles it by a click', async () => {
  const user = userEvent.setup();
  const found = ['1', '2', '3'].map((n) => ({
    severity: 'warning',
    cause: 'off-grid',
    what: `pin ${n} is off the grid`,
    click: 'move the pins onto the grid',
  }));
  const { asked } = open([tried(3, [], { findings: found })]);
  expect((await screen.findByText(/pin 1 is off/)).textContent).toBe('pin 1 is off the grid, and 2 more like it');
  await user.click(screen.getByRole('button', { name: 'move the pins onto the grid' }));
  await waitFor(() => expect(asked()).toEqual([{ do: 'settle', value: 'off-grid' }]));
});

it('says why a change was refused, and stays where it was', async () => {
  const user = userEvent.setup();
  let refuse = false;
  service(['model.edit'], {
    get 'POST /drawing-tries'() {
      return refuse ? undefined : tried(2, []);
    },
  });
  show(<DrawingEditor />, '/models/draw?kind=symbol', '/models/draw');
  (await grid()).focus();
  refuse = true;
  await user.keyboard('wide{Enter}');
  expect((await screen.findByRole('alert')).textContent).toContain('POST /drawing-tries');
  expect(screen.getByRole('tab', { name: 'pins 2' })).toBeTruthy();
  expect(screen.getByRole('button', { name: /Back/ })).toHaveProperty('disabled', true);
});
