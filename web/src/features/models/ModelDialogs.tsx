import { useState } from 'react';
import { api, based, take, upload } from '../../api/client';
import { Button, Dialog, Field, TextArea, Trouble } from '../../ui/kit';
import { Reading, type Choice } from './PinReading';
import { useDeed, type Kind, type Model } from './queries';

export function EditDialog({ model, onClose }: { model: Model; onClose: () => void }) {
  const was = model.draft ?? model.released;
  const [name, setName] = useState(was?.name ?? '');
  const [note, setNote] = useState(was?.note ?? '');
  const [file, setFile] = useState<File>();
  const save = useDeed(async () => {
    const kept = file ? await upload(file) : undefined;
    const drawing = kept ? {} : { symbol: was?.symbol, landPattern: was?.landPattern, body: was?.body, pinMap: was?.pinMap };
    const body = {
      kind: model.kind as Kind,
      name,
      note,
      fileHash: kept?.hash ?? was?.fileHash,
      fileName: kept?.name ?? was?.fileName,
      ...drawing,
    };
    return take(api.PUT('/api/v1/models/{id}/draft', { params: { path: { id: model.id }, header: based(model.version) }, body }));
  }, onClose);
  return (
    <Dialog open title={`New draft of ${model.name}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate(undefined);
        }}
      >
        <Field label="Name" required maxLength={100} value={name} onChange={(e) => setName(e.target.value)} />
        <Field
          label="File"
          type="file"
          hint={was?.fileName ? `Now ${was.fileName}` : 'Its drawing replaces the one that is there'}
          onChange={(e) => setFile(e.target.files?.[0])}
        />
        <Field label="Note" maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
        <Trouble error={save.error} />
        <Button look="act" type="submit" disabled={save.isPending}>
          Save as a draft
        </Button>
      </form>
    </Dialog>
  );
}

/** The check list for a person: what to look at, and against what it was looked at. */
export function SignDialog({ model, against: start = '', onClose }: { model: Model; against?: string; onClose: () => void }) {
  const [against, setAgainst] = useState(start);
  const [seen, setSeen] = useState<Record<string, boolean>>({});
  const points =
    model.kind === 'symbol'
      ? [
          'Every pin number and name is that of the datasheet',
          'Types of pins are right',
          'Nothing on it is wrong for another maker of the part',
        ]
      : model.kind === 'land pattern'
        ? [
            'Pads are where and as large as the datasheet or IPC-7351 says',
            'Pad 1 is where the datasheet has pin 1',
            'Courtyard and outlines suit the case',
          ]
        : ['The size is that of the datasheet', 'Pin 1 is where the land pattern has pad 1', 'It stands on the board'];
  const sign = useDeed(
    () =>
      take(api.POST('/api/v1/models/{id}/sign', { params: { path: { id: model.id }, header: based(model.version) }, body: { against } })),
    onClose,
  );
  return (
    <Dialog open title={`Sign the check of ${model.name}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          sign.mutate(undefined);
        }}
      >
        {points.map((p) => (
          <label key={p} className="flex gap-2 text-sm">
            <input type="checkbox" required checked={!!seen[p]} onChange={(e) => setSeen({ ...seen, [p]: e.target.checked })} />
            {p}
          </label>
        ))}
        <Field
          label="Checked against"
          required
          maxLength={500}
          placeholder="datasheet, revision, page"
          value={against}
          onChange={(e) => setAgainst(e.target.value)}
        />
        <Trouble error={sign.error} />
        <Button look="act" type="submit" disabled={sign.isPending}>
          Sign with my name
        </Button>
      </form>
    </Dialog>
  );
}

export function CompareDialog({ model, onClose }: { model: Model; onClose: () => void }) {
  const [text, setText] = useState('');
  const [hash, setHash] = useState('');
  const [choice, setChoice] = useState<Choice>({});
  const compare = useDeed(async ({ file, chosen }: { file?: File; chosen: Choice }) => {
    const kept = file ? (await upload(file)).hash : hash;
    setHash(kept);
    setChoice(chosen);
    return take(
      api.POST('/api/v1/models/{id}/compare-pins', {
        params: { path: { id: model.id } },
        body: { ...(kept ? { file: kept } : { text }), ...chosen },
      }),
    );
  });
  return (
    <Dialog open title={`Pins of ${model.name} beside a list`} onClose={onClose}>
      <div className="space-y-3">
        <TextArea
          label="Pin table from the datasheet"
          rows={5}
          placeholder={'Pin\tName\tType\n1\tVDD\tpower'}
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            setHash('');
          }}
        />
        <div className="flex items-end gap-3">
          <Button look="act" disabled={!text.trim()} onClick={() => compare.mutate({ chosen: {} })}>
            Compare
          </Button>
          <Field
            label="or a table or IBIS file"
            type="file"
            onChange={(e) => e.target.files?.[0] && compare.mutate({ file: e.target.files[0], chosen: {} })}
          />
        </div>
        <Trouble error={compare.error} />
        {compare.data && (
          <>
            <Reading r={compare.data} choice={choice} onChoose={(chosen) => compare.mutate({ chosen })} />
            <p className="text-sm font-semibold">
              {compare.data.lines.length === 0
                ? 'Nothing is compared yet.'
                : compare.data.differ === 0
                  ? '✓ All pins agree.'
                  : `▲ ${compare.data.differ} of ${compare.data.lines.length} lines differ.`}
            </p>
            {compare.data.wrong.map((w) => (
              <p key={w} className="text-sm text-amber">
                ▲ {w}
              </p>
            ))}
            <div className="max-h-72 overflow-auto">
              <table className="w-full text-sm">
                <thead className="text-left text-xs text-soft">
                  <tr>
                    <th className="pr-3">Pin</th>
                    <th className="pr-3">Symbol</th>
                    <th className="pr-3">List</th>
                    <th>What</th>
                  </tr>
                </thead>
                <tbody>
                  {compare.data.lines
                    .filter((l) => l.what)
                    .concat(compare.data.lines.filter((l) => !l.what))
                    .map((l) => (
                      <tr key={l.number} className={`border-t border-line/60 ${l.what ? 'bg-amber-tint' : ''}`}>
                        <td className="pr-3 font-semibold">{l.number}</td>
                        <td className="pr-3">
                          {l.symbol} <span className="text-xs text-soft">{l.type}</span>
                        </td>
                        <td className="pr-3">
                          {l.listed} <span className="text-xs text-soft">{l.says}</span>
                        </td>
                        <td>{l.what ? `▲ ${l.what}` : '✓'}</td>
                      </tr>
                    ))}
                </tbody>
              </table>
            </div>
          </>
        )}
      </div>
    </Dialog>
  );
}
