import { useQuery } from '@tanstack/react-query';
import { api, take } from '../../api/client';
import { Differences, DrawnBeside, revisionName, useTwoRevisions } from '../../ui/beside';
import { Dialog, Trouble } from '../../ui/kit';
import { preview } from '../../ui/previews';
import { type Model } from './queries';

/** Two revisions of a model side by side: what a reviewer would look at again, and both drawings. */
export function RevisionsDialog({ model, onClose }: { model: Model; onClose: () => void }) {
  const { from, to, choices } = useTwoRevisions(model);
  const diff = useQuery({
    queryKey: ['model-diff', model.id, model.version, from, to],
    queryFn: () => take(api.GET('/api/v1/models/{id}/diff', { params: { path: { id: model.id }, query: { from, to } } })),
  });
  const d = diff.data;
  const side = (n: number, content: string, beside: string) => ({
    title: revisionName(n),
    src: model.drawn ? preview(model.id, content, false, beside) : undefined,
    alt: `${model.name}, ${revisionName(n)}`,
  });
  return (
    <Dialog open wide title={`Compare revisions of ${model.name}`} onClose={onClose}>
      {choices}
      <Trouble error={diff.error} />
      {d && (
        <>
          <div className="mb-3">
            <Differences
              head="What"
              from={revisionName(from)}
              to={revisionName(to)}
              rows={d.differences.map((x) => ({ label: x.label, from: x.from || undefined, to: x.to || undefined }))}
            />
          </div>
          <DrawnBeside sides={[side(d.from, d.fromContent, d.toContent), side(d.to, d.toContent, d.fromContent)]} />
        </>
      )}
    </Dialog>
  );
}
