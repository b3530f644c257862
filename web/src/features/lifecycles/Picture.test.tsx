// @vitest-environment jsdom
import { render, screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { arcsOf, Picture } from './Picture';
import { type Document } from './queries';

const state = (word: string, first = false) => ({ key: word.toLowerCase(), word, use: 'yes', shape: 'disc', first });
const move = (label: string, from: string[], to: string) => ({ key: label.toLowerCase(), label, from, to });
const doc = {
  name: 'parts',
  of: 'parts',
  status: [state('Draft', true), state('In review'), state('Released'), state('Withdrawn')],
  standing: [state('Active', true), state('Obsolete')],
  moves: [
    move('Ask', ['draft'], 'in review'),
    move('Send back', ['in review'], 'draft'),
    move('Release', ['draft', 'in review'], 'released'),
    move('Push through', ['draft'], 'released'),
    move('Withdraw', ['released'], 'withdrawn'),
    move('Retire', ['active'], 'obsolete'),
    move('Stay', ['draft'], 'draft'),
  ],
} as unknown as Document;

test('each way from state to state is one arc with all its moves, and a track has its own', () => {
  expect(arcsOf(doc, doc.status)).toEqual([
    { from: 0, to: 1, words: ['Ask'] },
    { from: 1, to: 0, words: ['Send back'] },
    { from: 0, to: 2, words: ['Release', 'Push through'] },
    { from: 1, to: 2, words: ['Release'] },
    { from: 2, to: 3, words: ['Withdraw'] },
  ]);
  expect(arcsOf(doc, doc.standing)).toEqual([{ from: 0, to: 1, words: ['Retire'] }]);
});

test('all of it lies within the picture, and is said to who cannot see it', () => {
  const { container } = render(<Picture doc={doc} track="status" />);
  const svg = screen.getByRole('img');
  expect(svg.getAttribute('aria-label')).toContain('Draft to Released: Release, Push through');
  const [, , width, height] = (svg.getAttribute('viewBox') ?? '').split(' ').map(Number);
  expect(container.querySelectorAll('rect').length).toBe(4);
  expect(container.querySelectorAll('svg > path').length).toBe(5);
  for (const r of container.querySelectorAll('rect')) {
    expect(Number(r.getAttribute('x')) + Number(r.getAttribute('width'))).toBeLessThanOrEqual(width ?? 0);
  }
  for (const t of container.querySelectorAll('text')) {
    const [x, y] = [Number(t.getAttribute('x')), Number(t.getAttribute('y'))];
    expect(y > 6 && y < (height ?? 0) && x > 0 && x < (width ?? 0)).toBe(true);
  }
  const boxes = [...container.querySelectorAll('rect')].map((r) => [
    Number(r.getAttribute('x')),
    Number(r.getAttribute('x')) + Number(r.getAttribute('width')),
  ]);
  boxes.slice(1).forEach((b, i) => expect(b[0] ?? 0).toBeGreaterThan((boxes[i]?.[1] ?? 0) + 10));
});
