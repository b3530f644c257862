import { useEffect, useEffectEvent, useState } from 'react';
import { useFieldArray, useForm } from 'react-hook-form';
import { upload, type ApiError, type Schemas } from '../../api/client';
import { later } from '../../ui/idle';
import { Button, Field, Panel, Select, Trouble } from '../../ui/kit';
import { useModelNames, type Edit } from './queries';

interface Shape {
  number: string;
  description: string;
  keepSeparate: string;
  values: Record<string, string>;
  sources: { manufacturer: string; mpn: string; supplier: string; supplierNumber: string }[];
  symbol: string;
  landPattern: string;
  body: string;
}

const places = ['symbol', 'landPattern', 'body'] as const;
const kinds = { symbol: 'symbol', landPattern: 'land pattern', body: 'body' } as const;
type Model = Schemas['PartModel'];

function ModelSelect({ place, now, ...rest }: { place: (typeof places)[number]; now?: Model } & React.ComponentProps<'select'>) {
  const models = useModelNames(kinds[place]);
  const label = kinds[place][0]?.toUpperCase() + kinds[place].slice(1);
  return (
    <Select label={label} {...rest}>
      <option value="">none</option>
      {now && <option value={`${now.id} ${now.revision}`}>{`${now.name}, revision ${now.revision}`}</option>}
      {models.data?.items
        .filter((m) => m.revision > 0 && !(now?.id === m.id && now.revision === m.revision))
        .map((m) => (
          <option key={m.id} value={`${m.id} ${m.revision}`}>{`${m.name}, revision ${m.revision}`}</option>
        ))}
    </Select>
  );
}

/** A unit as people write it; the service names units by UCUM. */
const shownUnit = (ucum: string) => ucum.replace('Ohm', 'Ω').replace('Cel', '°C').replace('[ppm]', 'ppm');

/** All fields of a part under its drawer's template. Values are typed as an engineer writes them; the service reads them. */
export function PartForm({
  drawer,
  start,
  fresh,
  busy,
  error,
  saveText,
  onSave,
  onCancel,
  onTyped,
  onChanged,
}: {
  drawer: Schemas['Drawer'];
  start: Edit;
  fresh?: boolean;
  busy: boolean;
  error: unknown;
  saveText: string;
  onSave: (e: Edit) => void;
  onCancel: () => void;
  /** Hears of the values half a second after the last key. */
  onTyped?: (values: Record<string, string>) => void;
  /** Hears of all that is typed, at each key; of nothing where it is as at the start. */
  onChanged?: (edit: Edit | undefined) => void;
}) {
  const [sheets, setSheets] = useState({ files: start.datasheets ?? [], links: start.datasheetLinks ?? [] });
  const [uploading, setUploading] = useState<unknown>();
  const ref = (m?: Model) => (m ? `${m.id} ${m.revision}` : '');
  const form = useForm<Shape>({
    defaultValues: {
      number: '',
      description: start.description ?? '',
      keepSeparate: '',
      values: Object.fromEntries(drawer.slots.map((s) => [s.key, start.values?.[s.key] ?? ''])),
      sources: (start.sources ?? []).map((s) => ({
        manufacturer: s.manufacturer,
        mpn: s.mpn,
        supplier: s.numbers?.[0]?.supplier ?? '',
        supplierNumber: s.numbers?.[0]?.number ?? '',
      })),
      symbol: ref(start.symbol),
      landPattern: ref(start.landPattern),
      body: ref(start.body),
    },
  });
  useEffect(() => {
    if (!onTyped) return;
    let callOff: (() => void) | undefined;
    const unsubscribe = form.subscribe({
      formState: { values: true },
      callback: ({ values }) => {
        callOff?.();
        callOff = later(() => onTyped(values.values), 500);
      },
    });
    return () => {
      callOff?.();
      unsubscribe();
    };
  }, [form, onTyped]);
  const sources = useFieldArray({ control: form.control, name: 'sources' });
  const places422 = (error as ApiError | undefined)?.problem?.errors ?? [];
  const wrong = (key: string) => places422.find((p) => p.location === `values.${key}`)?.message;

  const toEdit = (v: Shape, { files, links } = sheets): Edit => {
    const model = (text: string, was?: Model): Model | undefined => {
      if (!text) return undefined;
      if (was && ref(was) === text) return was;
      const [id = '', revision = '0'] = text.split(' ');
      return { id, name: '', revision: Number(revision) };
    };
    return {
      drawer: drawer.key,
      came: start.came,
      number: v.number || undefined,
      description: v.description,
      keepSeparate: v.keepSeparate || undefined,
      values: v.values,
      datasheets: files,
      datasheetLinks: links,
      sources: v.sources
        .filter((s) => s.manufacturer.trim() || s.mpn.trim())
        .map((s, i) => {
          // Further supplier numbers of a source that the form does not show stay as they are.
          const rest = start.sources?.[i]?.mpn === s.mpn ? (start.sources[i].numbers ?? []).slice(1) : [];
          const numbers = [...(s.supplierNumber ? [{ supplier: s.supplier, number: s.supplierNumber }] : []), ...rest];
          return { manufacturer: s.manufacturer, mpn: s.mpn, ...(numbers.length ? { numbers } : {}) };
        }),
      symbol: model(v.symbol, start.symbol),
      landPattern: model(v.landPattern, start.landPattern),
      body: model(v.body, start.body),
      pinMap: start.pinMap,
      otherLandPatterns: start.otherLandPatterns,
      attachments: start.attachments,
    };
  };
  const save = form.handleSubmit((v) => onSave(toEdit(v)));
  // What the form began with, so that one typed in and typed back again counts as unchanged.
  const [first] = useState(() => JSON.stringify(toEdit(form.getValues())));
  const tell = (v: Shape, attached = sheets) => {
    const now = toEdit(v, attached);
    onChanged?.(JSON.stringify(now) === first ? undefined : now);
  };
  const heard = useEffectEvent((v: Shape) => tell(v));
  useEffect(() => form.subscribe({ formState: { values: true }, callback: ({ values }) => heard(values) }), [form]);
  const attach = (now: typeof sheets) => {
    setSheets(now);
    tell(form.getValues(), now);
  };

  return (
    <form onSubmit={save} className="space-y-3">
      <Trouble error={error ?? uploading} />
      <Panel title={`Parameters of ${drawer.label}`}>
        <div className="grid grid-cols-1 gap-x-4 gap-y-2 sm:grid-cols-2 lg:grid-cols-3">
          {fresh && <Field label="Number" hint={`Blank takes the next of ${drawer.prefix}`} {...form.register('number')} />}
          <Field
            label="Description"
            hint={drawer.description ? 'Blank: built from the values' : undefined}
            {...form.register('description')}
          />
          {drawer.slots.map((s) =>
            s.type === 'choice' || s.type === 'yes-no' ? (
              <Select
                key={s.key}
                label={`${s.label}${s.required ? ' *' : ''}`}
                error={wrong(s.key)}
                hint={s.help}
                {...form.register(`values.${s.key}`)}
              >
                <option value=""></option>
                {start.values?.[s.key] && !(s.type === 'yes-no' ? ['yes', 'no'] : s.choices).includes(start.values[s.key] ?? '') && (
                  <option>{start.values[s.key]}</option>
                )}
                {(s.type === 'yes-no' ? ['yes', 'no'] : s.choices).map((c) => (
                  <option key={c}>{c}</option>
                ))}
              </Select>
            ) : (
              <Field
                key={s.key}
                label={`${s.label}${s.required ? ' *' : ''}`}
                hint={s.help}
                error={wrong(s.key)}
                placeholder={s.unit ? `in ${shownUnit(s.unit)}` : ''}
                {...form.register(`values.${s.key}`)}
              />
            ),
          )}
        </div>
        <p className="mt-2 text-xs text-soft">* required before release</p>
      </Panel>
      <Panel
        title="Sources"
        actions={
          <Button onClick={() => sources.append({ manufacturer: '', mpn: '', supplier: '', supplierNumber: '' })}>Add a source</Button>
        }
      >
        {sources.fields.length === 0 && (
          <p className="text-sm text-soft">No source yet: a part needs a manufacturer and its part number to be bought.</p>
        )}
        {sources.fields.map((s, i) => (
          <div key={s.id} className="mb-2 grid grid-cols-2 items-end gap-2 lg:grid-cols-[1fr_1fr_1fr_1fr_auto]">
            <Field label="Manufacturer" {...form.register(`sources.${i}.manufacturer`)} />
            <Field label="MPN" {...form.register(`sources.${i}.mpn`)} />
            <Field label="Supplier" {...form.register(`sources.${i}.supplier`)} />
            <Field label="Supplier number" {...form.register(`sources.${i}.supplierNumber`)} />
            <Button look="quiet" aria-label={`Remove source ${i + 1}`} onClick={() => sources.remove(i)}>
              Remove
            </Button>
          </div>
        ))}
        {((error as ApiError | undefined)?.problem?.type?.endsWith('source-taken') ?? false) && (
          <Field
            label="Keep separate because"
            hint="Only if this part must stand beside the one that has the same MPN"
            {...form.register('keepSeparate')}
          />
        )}
      </Panel>
      <div className="grid gap-3 lg:grid-cols-2">
        <Panel title="Models">
          <div className="grid gap-2 sm:grid-cols-3">
            {places.map((p) => (
              <ModelSelect key={p} place={p} now={start[p]} {...form.register(p)} />
            ))}
          </div>
        </Panel>
        <Panel title="Datasheets">
          <ul className="mb-2 text-sm">
            {sheets.files.map((d) => (
              <li key={d.hash} className="flex items-center justify-between">
                {d.name}
                <Button look="quiet" onClick={() => attach({ ...sheets, files: sheets.files.filter((x) => x !== d) })}>
                  Detach
                </Button>
              </li>
            ))}
            {sheets.links.map((l) => (
              <li key={l} className="flex items-center justify-between gap-2">
                <span className="min-w-0 break-all">{l}</span>
                <Button look="quiet" onClick={() => attach({ ...sheets, links: sheets.links.filter((x) => x !== l) })}>
                  Remove
                </Button>
              </li>
            ))}
          </ul>
          <label className="text-sm">
            <span className="mb-0.5 block text-xs font-semibold text-soft">Attach a file</span>
            <input
              type="file"
              onChange={(e) => {
                const file = e.target.files?.[0];
                if (!file) return;
                setUploading(undefined);
                upload(file).then((f) => attach({ ...sheets, files: [...sheets.files, { hash: f.hash, name: f.name }] }), setUploading);
              }}
            />
          </label>
        </Panel>
      </div>
      <div className="flex gap-2">
        <Button look="act" type="submit" disabled={busy}>
          {saveText}
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
      </div>
    </form>
  );
}
