import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useId, useState } from 'react';
import { Link } from 'react-router';
import { api, based, take, type Schemas } from '../../api/client';
import { Button, Dialog, Field, Trouble } from '../../ui/kit';
import { useMay } from '../people';
import { useDeed } from './queries';

type Asking = { do: 'add' } | { do: 'default' | 'remove'; name: string; id: string };

/** A part's land patterns beside its default: for another assembly or another density. Each can be made the default, or go. */
export function OtherLands({ part, content }: { part: { id: string; version: number }; content: Schemas['PartContent'] }) {
  const may = useMay();
  const [asking, ask] = useState<Asking>();
  const others = content.otherLandPatterns;
  return (
    <div className="mt-1 space-y-1 text-sm">
      {others.map((o) => (
        <p key={o.model.id} className="flex flex-wrap items-center gap-2">
          <span className="flex-1">
            For {o.for}:{' '}
            <Link className="underline" to={`/models/${o.model.id}`}>
              {o.model.name}, revision {o.model.revision}
            </Link>
          </span>
          {may('part.edit') && (
            <>
              <Button look="quiet" onClick={() => ask({ do: 'default', name: o.model.name, id: o.model.id })}>
                Make it the default…
              </Button>
              <Button look="quiet" onClick={() => ask({ do: 'remove', name: o.model.name, id: o.model.id })}>
                Remove…
              </Button>
            </>
          )}
        </p>
      ))}
      {may('part.edit') && content.landPattern && (
        <Button look="quiet" onClick={() => ask({ do: 'add' })}>
          Add a land pattern for another assembly…
        </Button>
      )}
      {asking && <ChooseLand part={part} now={content.landPattern?.name ?? 'none'} asking={asking} onClose={() => ask(undefined)} />}
    </div>
  );
}

function ChooseLand({
  part,
  now,
  asking,
  onClose,
}: {
  part: { id: string; version: number };
  now: string;
  asking: Asking;
  onClose: () => void;
}) {
  const [chosen, choose] = useState('');
  const [what, say] = useState('');
  const id = useId();
  const words = useDeferredValue(chosen);
  const lands = useQuery({
    queryKey: ['models', 'land pattern', 'like', words],
    queryFn: () => take(api.GET('/api/v1/models', { params: { query: { kind: 'land pattern', q: words, limit: 30 } } })),
    placeholderData: (before) => before,
    enabled: asking.do === 'add',
  });
  const deed = useDeed(
    () =>
      take(
        api.POST('/api/v1/parts/{key}/land-patterns', {
          params: { path: { key: part.id }, header: based(part.version) },
          body: { do: asking.do, model: asking.do === 'add' ? chosen : asking.id, for: what || undefined },
        }),
      ),
    onClose,
  );
  const titles = {
    add: 'Add a land pattern for another assembly',
    default: `Make ${asking.do === 'add' ? '' : asking.name} the default`,
    remove: `Remove ${asking.do === 'add' ? '' : asking.name}`,
  };
  return (
    <Dialog title={titles[asking.do]} open onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          deed.mutate(undefined);
        }}
      >
        {asking.do === 'add' && (
          <>
            <Field
              label="Land pattern"
              hint="Words of its name find it"
              list={`${id}-names`}
              required
              maxLength={100}
              value={chosen}
              onChange={(e) => choose(e.target.value)}
            />
            <datalist id={`${id}-names`}>
              {lands.data?.items
                .filter((m) => m.revision > 0)
                .map((m) => (
                  <option key={m.id} value={m.name} />
                ))}
            </datalist>
          </>
        )}
        {asking.do !== 'remove' && (
          <Field
            label={asking.do === 'add' ? 'What it is for' : `What ${now} is for from now on`}
            hint="Blank: the density level that it was drawn for"
            placeholder="hand assembly"
            maxLength={60}
            value={what}
            onChange={(e) => say(e.target.value)}
          />
        )}
        {asking.do === 'remove' && <p className="text-sm">The land pattern stays in the library; the part names it no more.</p>}
        <p className="text-sm text-soft">The part gets a draft with the change; what is released stays as it is.</p>
        <Trouble error={deed.error} />
        <Button
          look={asking.do === 'remove' ? 'danger' : 'act'}
          type="submit"
          disabled={deed.isPending || (asking.do === 'add' && !chosen)}
        >
          {asking.do === 'add' ? 'Add it' : asking.do === 'default' ? 'Make it the default' : 'Remove it'}
        </Button>
      </form>
    </Dialog>
  );
}
