import { Drawing } from '../../ui/drawing';
import { previewOf } from '../../ui/previews';
import { usePart } from '../parts/queries';

/** The drawings of a line's record, with the letter of the line's designators: what the pieces of the line are laid beside for the eye. */
export function RecordDrawings({ number, designators }: { number: string; designators: string[] }) {
  const part = usePart(number);
  const content = part.data?.released ?? part.data?.draft;
  const letter = /[A-Z]+(?=[0-9]+$)/.exec(designators[0] ?? '')?.[0] ?? '';
  const models = [
    { place: 'Symbol', of: content?.symbol },
    { place: 'Land pattern', of: content?.landPattern },
  ].flatMap((m) => (m.of?.id ? [{ ...m, of: m.of }] : []));
  if (models.length === 0) return null;
  return (
    <div className="mt-3 grid gap-3 sm:grid-cols-2">
      {models.map((m) => (
        <figure key={m.place} className="rounded border border-line p-2">
          <figcaption className="mb-1 text-xs text-soft">
            {m.place}: {m.of.name}, revision {m.of.revision}
          </figcaption>
          <div className="h-36">
            <Drawing src={previewOf(m.of, letter)} alt={`${m.place} of ${number}`} />
          </div>
        </figure>
      ))}
    </div>
  );
}
