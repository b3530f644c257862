// @vitest-environment jsdom
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { Refusal, service, show } from '../../ui/testing';
import { CauseActions, LineFindings } from './Findings';
import { SeveritiesDialog } from './SeveritiesDialog';
import { UniteDialog } from './UniteDialog';
import type { BOM, Line } from './queries';

const found = (cause: string, more = {}) => ({ cause, severity: 'warning', what: `${cause} is so`, mend: 'look at it', ...more });
const part = { id: 'p1', number: 'EW-R-1', revision: 3 };
const line = (row: number, findings: unknown[], more = {}) =>
  ({ row, verdict: 'linked', designators: [`R${String(row)}`], findings, part, ...more }) as unknown as Line;
const bom = (lines: Line[]) => ({ id: 'b1', name: 'Gauge', version: 7, lines }) as unknown as BOM;

it('accepts a finding of a line with a reason, and takes that back', async () => {
  const user = userEvent.setup();
  const sent = service(['bom.edit'], { 'POST /boms/b1/waivers': bom([]) });
  const l = line(2, [found('single-source'), found('obsolete', { waived: 'the last build (Maren)' })]);
  show(<LineFindings bom={bom([l])} line={l} mayEdit />);
  expect(await screen.findByText('the last build (Maren)')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Accept…' }));
  const accept = screen.getByRole('button', { name: 'Accept' });
  expect((accept as HTMLButtonElement).disabled).toBe(true);
  await user.type(screen.getByLabelText('Why it is as it should be'), 'agreed');
  await user.click(accept);
  expect(await screen.findByText('Accepted in 1 line; each can be taken back.')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Take it back' }));
  expect(sent.map((s) => [s.body, s.match])).toEqual([
    [{ cause: 'single-source', rows: [2], why: 'agreed' }, '"7"'],
    [{ cause: 'obsolete', rows: [2], why: '' }, '"7"'],
  ]);
});

it('offers nothing of the kind to who only reads, and no acceptance of what is found of a proposal', async () => {
  service([], {});
  const l = line(2, [found('value')], { verdict: 'proposed' });
  show(
    <>
      <LineFindings bom={bom([l])} line={l} mayEdit />
      <LineFindings bom={bom([l])} line={line(3, [found('obsolete')])} mayEdit={false} />
      <CauseActions bom={bom([l])} cause="value" />
    </>,
  );
  expect(await screen.findByText('value is so')).toBeTruthy();
  expect(screen.queryByRole('button', { name: /Accept…|Accept it|Move|Take/ })).toBeNull();
});

it('shows what differs from the revision that a board holds on to, and moves it on', async () => {
  const user = userEvent.setup();
  const sent = service(['bom.edit'], {
    '/parts/p1/diff': (_: unknown, q: URLSearchParams) => ({
      changes: q.get('from') === '1' && q.get('to') === '3' ? [{ path: 'values.power', old: '125 mW', new: '250 mW' }] : [],
      models: [],
    }),
    'POST /boms/b1/move-on': new Refusal(412, 'changed-meanwhile', 'The BOM was changed meanwhile.'),
  });
  const l = line(2, [found('behind')], { held: 1 });
  show(<LineFindings bom={bom([l])} line={l} mayEdit />);
  const table = await screen.findByRole('table');
  expect(within(table).getByText('125 mW')).toBeTruthy();
  expect(within(table).getByText('revision 1')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Move it on' }));
  expect(await screen.findByText(/changed meanwhile/)).toBeTruthy();
  expect(sent.at(-1)?.body).toEqual({ parts: ['p1'] });
});

it('does for all lines of a cause what is done for one: those that somebody accepted are left alone', async () => {
  const user = userEvent.setup();
  const sent = service(['bom.edit'], { 'POST /boms/b1/waivers': bom([]), 'POST /boms/b1/move-on': bom([]) });
  const lines = [
    line(2, [found('behind')], { held: 1 }),
    line(3, [found('behind')], { held: 1 }),
    line(4, [found('behind', { waived: 'as built (Tove)' })], { held: 1, part: { ...part, id: 'p2' } }),
    line(5, [found('obsolete')]),
  ];
  show(<CauseActions bom={bom(lines)} cause="behind" />);
  await user.click(await screen.findByRole('button', { name: 'Move 2 lines on' }));
  expect(await screen.findByText('1 part is moved on.')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Accept it in 2 lines…' }));
  await user.type(screen.getByLabelText('Why it is as it should be'), 'as built{Enter}');
  expect(await screen.findByText('Accepted in 2 lines; each can be taken back.')).toBeTruthy();
  expect(sent.map((s) => s.body)).toEqual([{ parts: ['p1'] }, { cause: 'behind', rows: [2, 3], why: 'as built' }]);
});

it('keeps how bad findings are, and what was typed where it is refused', async () => {
  const user = userEvent.setup();
  const sent = service([], {
    '/bom-severities': { version: 4, text: 'format: jolly-severities/1\n', usual: { behind: 'warning', obsolete: 'error' } },
    'PUT /bom-severities': new Refusal(422, 'severities-wrong', 'The severities cannot be taken: causes: "nonsense" is no cause.'),
  });
  show(<SeveritiesDialog mayApply onClose={() => undefined} />);
  const text = await screen.findByLabelText('Document');
  expect((screen.getByRole('button', { name: 'Put it in force' }) as HTMLButtonElement).disabled).toBe(true);
  await user.type(text, 'causes: nonsense');
  await user.click(screen.getByRole('button', { name: 'Put it in force' }));
  expect(await screen.findByText(/is no cause/)).toBeTruthy();
  expect((text as HTMLTextAreaElement).value).toContain('nonsense');
  expect(sent.at(-1)).toMatchObject({ match: '"4"', body: { text: 'format: jolly-severities/1\ncauses: nonsense' } });
  expect(screen.getByRole('row', { name: 'obsolete error' })).toBeTruthy();
});

it('says what one part for one function saves, and takes it for the lines of the others', async () => {
  const user = userEvent.setup();
  const of = (n: number, rows: number[], more: object) => ({ id: `p${String(n)}`, number: `EW-R-${String(n)}`, description: 'RES', manufacturer: 'T', mpn: 'T1', rows, sum: '9.00 EUR', missing: 4, saves: '', ...more }); // prettier-ignore
  const sent = service(['bom.edit'], {
    '/boms/b1/functions': {
      boards: 40,
      sum: '10.00 EUR',
      missing: 4,
      more: 0,
      items: [
        {
          parts: [
            of(1, [2, 5], { saves: '1.00 EUR' }),
            of(2, [3], { why: '40 more pieces would have no price' }),
            of(3, [7], { saves: '-2.00 EUR', short: true }),
          ],
        },
      ],
    },
    'POST /boms/b1/choices': bom([]),
  });
  show(<UniteDialog bom={bom([])} at="Gauge" variant="" onClose={() => undefined} />);
  const row = async (number: string) => (await screen.findByRole('link', { name: number })).closest('tr') as HTMLElement;
  expect((await row('EW-R-1')).textContent).toContain('rows 2, 59.00 EUR1.00 EUR');
  expect((await row('EW-R-2')).textContent).toContain('40 more pieces would have no price');
  expect((await row('EW-R-3')).textContent).toContain('-2.00 EUR (short)');
  expect(screen.getByText(/comes to 10.00 EUR as it is, without 4 pieces/)).toBeTruthy();
  await user.click(within(await row('EW-R-1')).getByRole('button', { name: 'Take this one' }));
  expect(await screen.findByText('EW-R-1 is in 2 more lines.')).toBeTruthy();
  expect(sent.at(-1)).toMatchObject({
    match: '"7"',
    body: { choose: [3, 7].map((row) => ({ row, part: 'p1', reason: 'one part for one function' })) },
  });
});
