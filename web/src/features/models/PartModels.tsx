import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { api, take, type Schemas } from '../../api/client';
import { useQuery } from '@tanstack/react-query';
import { Drawing } from '../../ui/drawing';
import { Dialog, Panel, Trouble } from '../../ui/kit';
import { previewOf } from '../../ui/previews';
import { useMay } from '../people';
import { DropZone, Use } from './Deliveries';
import { OtherLands } from './OtherLands';

/** A part's symbol, land pattern and body side by side; what is missing stands out. */
export function PartDrawings({
  content,
  letter,
  number,
  small = false,
}: {
  content: Schemas['PartContent'];
  /** Of the drawer's designators. */
  letter: string | undefined;
  /** Of the part whose facts stand on the symbol; without it the symbol is shown by itself. */
  number?: string;
  small?: boolean;
}) {
  const models = { symbol: content.symbol, 'land pattern': content.landPattern, body: content.body };
  return (
    <ul className={small ? 'grid grid-cols-3 gap-1.5 text-xs' : 'grid gap-2 text-sm sm:grid-cols-3'}>
      {Object.entries(models).map(([place, m]) => (
        <li
          key={place}
          className={`rounded border ${small ? 'p-1' : 'p-2'} ${m ? 'border-line' : 'border-dashed border-amber bg-amber-tint'}`}
        >
          <span className="block text-xs font-semibold text-soft">{place}</span>
          {m ? (
            <>
              <div className={small ? 'h-20' : 'h-28'}>
                <Drawing
                  src={place === 'symbol' && number ? `/api/v1/parts/${encodeURIComponent(number)}/symbol` : previewOf(m, letter)}
                  alt={`${place} ${m.name}`}
                />
              </div>
              <Link className={`underline ${small ? 'block truncate' : ''}`} title={m.name} to={`/models/${m.id}`}>
                {small ? m.name : `${m.name}, ${m.revision ? `revision ${m.revision}` : 'draft'}`}
              </Link>
            </>
          ) : (
            <strong className="text-amber">▲ missing</strong>
          )}
        </li>
      ))}
    </ul>
  );
}

/** The models of a part, and the place where new ones are dropped. */
export function PartModels({
  part,
  content,
  letter,
  arrived,
}: {
  part: { id: string; version: number; number: string };
  content: Schemas['PartContent'];
  letter: string | undefined;
  /** What was sent for the part and waits to be taken. */
  arrived?: ReactNode;
}) {
  const { number } = part;
  const may = useMay();
  const [delivery, setDelivery] = useState<string>();
  return (
    <Panel
      title="Models"
      actions={
        <Link className="text-sm underline" to={`/parts/${encodeURIComponent(number)}/pins`}>
          Pins on pads
        </Link>
      }
    >
      <PartDrawings content={content} letter={letter} number={number} />
      {arrived && <div className="mt-2">{arrived}</div>}
      {(content.symbol ?? content.landPattern) && (
        <p className="mt-1 flex flex-wrap gap-3 text-sm">
          With its facts:
          {content.symbol && (
            <a className="underline" download href={`/api/v1/parts/${encodeURIComponent(number)}/drawing?form=edif`}>
              symbol as EDIF
            </a>
          )}
          {content.landPattern && (
            <a className="underline" download href={`/api/v1/parts/${encodeURIComponent(number)}/drawing?form=ipc2581`}>
              land pattern as IPC-2581
            </a>
          )}
        </p>
      )}
      <OtherLands part={part} content={content} />
      {content.pinMap && (
        <p className="mt-1 text-sm">
          Pin map:{' '}
          <Link className="underline" to={`/models/${content.pinMap.id}`}>
            {content.pinMap.name}
          </Link>
        </p>
      )}
      {content.attachments.length > 0 && (
        <p className="mt-1 flex flex-wrap gap-3 text-sm">
          {content.attachments.map((a) => (
            <a
              key={a.file.hash}
              className="underline"
              download={a.file.name}
              href={`/api/v1/files/${a.file.hash}?name=${encodeURIComponent(a.file.name)}`}
            >
              {a.is}: {a.file.name}
            </a>
          ))}
        </p>
      )}
      {may('model.edit') && (
        <div className="mt-2">
          <DropZone small part={number} onDone={(d) => setDelivery(d.id)} />
        </div>
      )}
      {delivery && <Delivered id={delivery} number={number} onClose={() => setDelivery(undefined)} />}
    </Panel>
  );
}

function Delivered({ id, number, onClose }: { id: string; number: string; onClose: () => void }) {
  const d = useQuery({
    queryKey: ['delivery', id],
    queryFn: () => take(api.GET('/api/v1/deliveries/{key}', { params: { path: { key: id } } })),
  });
  return (
    <Dialog open wide title={`What was dropped on ${number}`} onClose={onClose}>
      <Trouble error={d.error} />
      {d.data && <Use d={d.data} onUsed={onClose} />}
    </Dialog>
  );
}
