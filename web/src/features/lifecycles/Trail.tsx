import { Panel } from '../../ui/kit';
import { ScrollList } from '../../ui/scroll';
import { useLife } from './queries';

/** Who did what to a thing, newest first. */
export function Trail({ id }: { id: string }) {
  const life = useLife(id);
  return (
    <Panel title="Trail">
      <ScrollList as="ol" className="max-h-60 space-y-1 text-sm">
        {life.data?.trail?.map((e) => (
          <li key={e.seq} title={e.detail}>
            <span className="text-xs text-soft">{new Date(e.at).toLocaleString()}</span> {e.says}
            {e.changes && e.changes.length > 0 && (
              <ul className="ml-4 text-xs text-soft">
                {e.changes.map((c) => (
                  <li key={c.what}>
                    {c.what}: {c.before ?? '–'} → {c.after ?? '–'}
                  </li>
                ))}
              </ul>
            )}
          </li>
        ))}
      </ScrollList>
    </Panel>
  );
}
