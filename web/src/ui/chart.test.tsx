// @vitest-environment jsdom
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it, vi } from 'vitest';
import { ChartFigure, csvText, svgText } from './chart';
import { show } from './testing';

it('writes a drawing that needs nothing of the page', () => {
  document.body.innerHTML =
    '<svg class="a" width="20" height="10" tabindex="0"><g class="b"><path stroke="var(--color-water)" d="M0 0"></path><text fill="var(--color-ink)">R &amp; C</text></g></svg>';
  const text = svgText(document.querySelector('svg') as SVGElement, (name) => (name === '--color-water' ? '#123456' : 'black'));
  const read = new DOMParser().parseFromString(text, 'image/svg+xml');
  expect(read.querySelector('parsererror')).toBeNull();
  expect(read.documentElement.getAttribute('width')).toBe('20');
  expect(read.querySelector('path')?.getAttribute('stroke')).toBe('#123456');
  expect(read.querySelector('text')?.textContent).toBe('R & C');
  expect(text).not.toMatch(/var\(|class=|tabindex/);
  expect(document.querySelector('path')?.getAttribute('stroke')).toBe('var(--color-water)'); // the page stays as it is
});

it('writes figures that no spreadsheet takes for formulas', () => {
  expect(csvText(['part', 'sum'], [['EW-R-1', 3.5], ['=1+1', -2], ['a, "b"', 0]])).toBe('part,sum\r\nEW-R-1,3.5\r\n\'=1+1,-2\r\n"a, ""b""",0\r\n'); // prettier-ignore
});

it('saves both under the name of the chart', async () => {
  const user = userEvent.setup();
  const saved: { name: string; type: string }[] = [];
  let last = new Blob();
  vi.stubGlobal('URL', Object.assign(URL, { createObjectURL: (b: Blob) => ((last = b), 'blob:x'), revokeObjectURL: () => undefined }));
  vi.spyOn(HTMLElement.prototype, 'click').mockImplementation(function (this: HTMLElement) {
    if (this instanceof HTMLAnchorElement) saved.push({ name: this.download, type: last.type });
  });
  show(
    <ChartFigure title="One board costs" file="Gauge cost" head={['boards', 'each']} rows={[[40, 3.44]]}>
      <svg width="5" height="5" />
    </ChartFigure>,
  );
  for (const item of ['As a drawing (SVG)', 'Its figures (CSV)']) {
    await user.click(await screen.findByRole('button', { name: /^Save/ }));
    await user.click(await screen.findByRole('menuitem', { name: item }));
  }
  expect(saved.map((s) => [s.name, s.type])).toEqual([
    ['Gauge cost.svg', 'image/svg+xml'],
    ['Gauge cost.csv', 'text/csv'],
  ]);
});
