import { useState } from 'react';
import { type Schemas } from '../../api/client';
import { Button, Chip, Dialog, Field, Select, Trouble } from '../../ui/kit';
import { useMay } from '../people';
import { useHold, useLetGo } from './queries';

/** Who holds a thing for editing, and the way to hold it, to let go of it, or to take it over. */
export function Held({ id, name, hold, edit }: { id: string; name: string; hold?: Schemas['Hold']; edit: boolean }) {
  const may = useMay();
  const letGo = useLetGo(id);
  const [asks, setAsks] = useState(false);
  const over = Boolean(hold && !hold.mine);
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      {hold ? (
        <>
          <Chip tone={hold.mine ? 'plain' : 'open'}>held by {hold.mine ? 'you' : hold.by}</Chip>
          <span className="text-sm">
            until {new Date(hold.until).toLocaleString()}: {hold.why}
          </span>
          {(hold.mine || may('hold.take-over')) && (
            <Button look="quiet" disabled={letGo.isPending} onClick={() => letGo.mutate()}>
              {hold.mine ? 'Let go' : 'End it'}
            </Button>
          )}
        </>
      ) : (
        <span className="text-sm">nobody</span>
      )}
      {edit && (!over || may('hold.take-over')) && (
        <Button look="quiet" onClick={() => setAsks(true)}>
          {over ? 'Take it over…' : hold ? 'Hold it longer…' : 'Hold it…'}
        </Button>
      )}
      <Trouble error={letGo.error} />
      {asks && <HoldDialog id={id} name={name} over={over} why={hold?.mine ? hold.why : ''} onClose={() => setAsks(false)} />}
    </div>
  );
}

function HoldDialog({ id, name, over, why: was, onClose }: { id: string; name: string; over: boolean; why: string; onClose: () => void }) {
  const hold = useHold(id);
  const [why, setWhy] = useState(was);
  const [hours, setHours] = useState('8');
  return (
    <Dialog open title={over ? `Take over ${name}` : `Hold ${name}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          hold.mutate({ why, hours: Number(hours), takeOver: over }, { onSuccess: onClose });
        }}
      >
        <p className="text-sm">
          {over ? 'Whoever holds it is told. ' : ''}Until then nobody else changes its draft or moves it on; everybody goes on reading it.
        </p>
        <Field label="What you are at" required maxLength={300} value={why} onChange={(e) => setWhy(e.target.value)} />
        <Select label="For" value={hours} onChange={(e) => setHours(e.target.value)}>
          <option value="1">an hour</option>
          <option value="8">a working day (8 hours)</option>
          <option value="24">a day</option>
          <option value="72">three days</option>
          <option value="168">a week</option>
        </Select>
        <Trouble error={hold.error} />
        <Button look="act" type="submit" disabled={hold.isPending || !why.trim()}>
          {over ? 'Take it over' : 'Hold it'}
        </Button>
      </form>
    </Dialog>
  );
}
