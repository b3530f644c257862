// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { Refusal, service, show } from '../../ui/testing';
import { EditTrouble } from './EditTrouble';
import { useEditIntake, type Intake } from './queries';

const intake = { id: 'i1', version: 4, number: 'IN-00004' } as Intake;

function House() {
  const edit = useEditIntake(intake.id);
  return (
    <>
      <EditTrouble intake={intake} edit={edit} />
      <button onClick={() => edit.mutate({ version: 4, body: { known: 'fill' } })}>Fill all</button>
    </>
  );
}

it('shows what somebody settled before an edit changes it, and changes it only where that is said', async () => {
  const user = userEvent.setup();
  const answers: Record<string, unknown> = {
    'POST /intakes/i1/edits': new Refusal(409, 'settled', 'Nothing was changed.'),
    'POST /intakes/i1/tries': {
      rows: 9,
      settled: 1,
      moved: [
        { row: 4, settled: 'the cell \u201cTol\u201d was corrected', moves: [{ what: 'tolerance', from: '±5 %', to: '±10 %' }] },
        { row: 5, moves: [{ what: 'tolerance', from: '', to: '±1 %' }] },
      ],
    },
  };
  const sent = service(['intake.edit'], answers);
  show(<House />);
  await user.click(screen.getByText('Fill all'));
  const dialog = await screen.findByRole('dialog');
  expect(await within(dialog).findByText('±10 %')).toBeTruthy();
  expect(within(dialog).queryByText('±1 %')).toBeNull(); // nobody settled that row
  expect(dialog.textContent).toContain('9 rows would become something else, 1 of them settled before');
  await user.click(within(dialog).getByRole('button', { name: 'Leave all as it is' }));
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  expect(sent.filter((s) => s.path.endsWith('/edits'))).toHaveLength(1);

  await user.click(screen.getByText('Fill all'));
  answers['POST /intakes/i1/edits'] = { ...intake, version: 5 };
  await user.click(await screen.findByRole('button', { name: 'Change 9 rows, 1 settled one too' }));
  await waitFor(() => expect(sent.filter((s) => s.path.endsWith('/edits')).at(-1)?.body).toEqual({ known: 'fill', evenSettled: true }));
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
});

it('says what else went wrong where it happened', async () => {
  service(['intake.edit'], { 'POST /intakes/i1/edits': new Refusal(422, 'change-wrong', 'The change was not made.') });
  show(<House />);
  await userEvent.click(screen.getByText('Fill all'));
  expect((await screen.findByRole('alert')).textContent).toContain('The change was not made.');
});
