import { useQuery } from '@tanstack/react-query';
import { api, ApiError, take, type Schemas } from '../../api/client';
import { Button, Dialog, Trouble } from '../../ui/kit';
import { useCabinet } from '../cabinet/queries';
import { targetWords, type useEditIntake, type Intake } from './queries';

type Edit = ReturnType<typeof useEditIntake>;

/**
 * What went wrong with an edit. One that would change what somebody settled was not made: the rows are shown, with how each was settled, and
 * somebody says whether they may change too.
 */
export function EditTrouble({ intake: i, edit, error }: { intake: Intake; edit: Edit; error?: unknown }) {
  const settled = edit.error instanceof ApiError && (edit.error.problem.type ?? '').endsWith('/settled');
  if (!settled || !edit.variables) return <Trouble error={edit.error ?? error} />;
  return <Settled key={edit.submittedAt} intake={i} edit={edit} body={edit.variables.body} />;
}

function Settled({ intake: i, edit, body }: { intake: Intake; edit: Edit; body: Schemas['IntakeEdit'] }) {
  const tried = useQuery({
    queryKey: ['intake-try', i.id, i.version, body],
    queryFn: () => take(api.POST('/api/v1/intakes/{id}/tries', { params: { path: { id: i.id } }, body: { ...body, limit: 200 } })),
  });
  const cabinet = useCabinet();
  const moved = (tried.data?.moved ?? []).filter((m) => m.settled);
  return (
    <Dialog title="That would change what somebody settled" open wide onClose={edit.reset}>
      <p className="mb-2 text-sm">
        Nothing was changed yet.{' '}
        {tried.data && `${tried.data.rows} rows would become something else, ${tried.data.settled} of them settled before:`}
      </p>
      <Trouble error={tried.error} />
      <div className="max-h-[50vh] overflow-auto">
        <table className="w-full text-sm">
          <thead>
            <tr className="text-left text-xs text-soft">
              {['Row', 'What', 'Text', 'Is', 'Would be', 'Settled before'].map((h) => (
                <th key={h} scope="col" className="pr-3 pb-1">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {moved.flatMap((m) =>
              m.moves.map((v, n) => (
                <tr key={`${m.row} ${v.what}`} className="border-t border-line align-top">
                  <th scope="row" className="py-1 pr-3 text-left font-medium">
                    {n === 0 ? m.row : ''}
                  </th>
                  <td className="py-1 pr-3">{targetWords(v.what, cabinet.data?.document.parameters ?? [])}</td>
                  <td className="py-1 pr-3">{v.text}</td>
                  <td className="py-1 pr-3">{v.from || <span className="text-soft">blank</span>}</td>
                  <td className="py-1 pr-3 font-semibold">{v.to || <span className="text-soft">blank</span>}</td>
                  <td className="py-1">{n === 0 ? m.settled : ''}</td>
                </tr>
              )),
            )}
          </tbody>
        </table>
      </div>
      <div className="mt-3 flex flex-wrap gap-2">
        <Button look="act" onClick={edit.reset}>
          Leave all as it is
        </Button>
        <Button
          look="danger"
          disabled={!tried.data}
          onClick={() => edit.mutate({ version: i.version, body: { ...body, evenSettled: true } })}
        >
          Change the settled rows too
        </Button>
      </div>
    </Dialog>
  );
}
