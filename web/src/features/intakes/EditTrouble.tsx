import { useState } from 'react';
import { ApiError, type Schemas } from '../../api/client';
import { Button, Dialog, Trouble } from '../../ui/kit';
import { MovedTable, SettledChoice, useTry } from './Preview';
import { type useEditIntake, type Intake } from './queries';

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
  const tried = useTry(i, body);
  const [chosen, setChosen] = useState<number[]>([]);
  return (
    <Dialog title="That would change what somebody settled" open wide onClose={edit.reset}>
      <p className="mb-2 text-sm">
        Nothing was changed yet.{' '}
        {tried.data && `${tried.data.rows} rows would become something else, ${tried.data.settled} of them settled before:`}
      </p>
      <Trouble error={tried.error} />
      <MovedTable moved={(tried.data?.moved ?? []).filter((m) => m.settled)} let={chosen} onLet={setChosen} />
      <div className="mt-3 flex flex-wrap gap-2">
        <Button look="act" onClick={edit.reset}>
          Leave all as it is
        </Button>
        {tried.data && (
          <SettledChoice
            t={tried.data}
            chosen={chosen}
            busy={edit.isPending}
            onGo={(more) => edit.mutate({ version: i.version, body: { ...body, ...more } })}
          />
        )}
      </div>
    </Dialog>
  );
}
