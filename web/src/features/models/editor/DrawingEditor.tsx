import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { api, based, take, type Schemas } from '../../../api/client';
import { Button, Empty, Field, PageHead, Panel, Select, State, Trouble } from '../../../ui/kit';
import { useSay } from '../../../ui/toast';
import { Offer, useTyped } from '../../../ui/unsaved';
import { useMay } from '../../people';
import { useDeed, type Model } from '../queries';
import { Board } from './Board';
import { Cells } from './Cells';
import { Tools } from './Tools';
import { useSteps, type Beside, type Drawing, type Tried } from './steps';

interface Typed extends Drawing {
  name: string;
}

/** The table beside the drawing of a model: of one that is there, of a copy of one, or of a new one. */
export function DrawingEditor() {
  const { id = '' } = useParams();
  const [params] = useSearchParams();
  const from = id || (params.get('copy') ?? '');
  const model = useQuery({
    queryKey: ['model', from],
    queryFn: () => take(api.GET('/api/v1/models/{id}', { params: { path: { id: from } } })),
    enabled: from !== '',
  });
  if (from && !model.data) return model.error ? <div className="p-4"><Trouble error={model.error} /></div> : <Empty title="One moment…" />; // prettier-ignore
  const kind = (model.data?.kind ?? params.get('kind') ?? 'symbol') as Beside['kind'];
  if (kind !== 'symbol' && kind !== 'land pattern')
    return <Empty title={`A ${String(kind)} is not drawn here`}>Symbols and land patterns are.</Empty>;
  return <Editor key={`${from} ${id ? model.data?.version : ''}`} kind={kind} was={model.data} own={id !== ''} />;
}

function Editor({ kind, was, own }: { kind: Beside['kind']; was?: Model; own: boolean }) {
  const may = useMay();
  const say = useSay();
  const navigate = useNavigate();
  const before = was?.draft ?? was?.released;
  const start: Drawing = useMemo(() => ({ symbol: before?.symbol, landPattern: before?.landPattern }), [before]);
  const startName = own || !was ? (before?.name ?? '') : `${before?.name} copy`;
  const [name, setName] = useState(startName);
  const [part, setPart] = useState(was?.usedBy[0]?.part ?? '');
  const [unit, setUnit] = useState((before?.symbol?.units?.length ?? 0) > 1 ? 1 : 0);
  const [step, setStep] = useState<string>();
  const beside = useMemo<Beside>(
    () => ({ kind, name: startName || 'new', model: own ? was?.id : undefined, part: part || undefined, unit: unit || undefined }),
    [kind, startName, own, was?.id, part, unit],
  );
  const steps = useSteps(start, kind === 'symbol' ? 'pins' : 'pads', beside);
  const { shown, drawing, undo, redo, change } = steps;
  const { kept, typed, settled, leaving } = useTyped<Typed>(own ? `drawing ${was?.id}` : `new ${kind}`, own ? (was?.version ?? 0) : 0);
  const changed = drawing !== start || name !== startName;
  useEffect(() => typed(changed ? { ...drawing, name } : undefined), [changed, drawing, name, typed]);
  const save = useDeed(
    async () => {
      const body: Schemas['ModelEdit'] = {
        kind,
        name,
        ...drawing,
        ...(own && { fileHash: before?.fileHash, fileName: before?.fileName }),
        note: before?.note,
      };
      return own && was
        ? take(api.PUT('/api/v1/models/{id}/draft', { params: { path: { id: was.id }, header: based(was.version) }, body }))
        : take(api.POST('/api/v1/models', { body }));
    },
    (m) => {
      settled();
      say(`${m.name} is kept as a draft.`);
      void navigate(`/models/${m.id}`);
    },
  );
  const list = shown?.lists.find((l) => l.of === steps.chosen.of) ?? shown?.lists[0];
  const by = step ?? shown?.step ?? '1.27';
  const ready = changed && name.trim() !== '' && !save.isPending && may('model.edit');
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.altKey) return;
      const key = e.key.toLowerCase();
      const typing = e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement;
      if (key === 's') {
        if (ready) save.mutate(undefined);
      } else if (typing) return;
      else if (key === 'z' && !e.shiftKey) undo?.();
      else if (key === 'y' || key === 'z') redo?.();
      else return;
      e.preventDefault();
    };
    addEventListener('keydown', keys);
    return () => removeEventListener('keydown', keys);
  });
  const title = own ? `Change ${was?.name}` : was ? `A copy of ${was.name}` : `Draw a ${kind}`;
  return (
    <>
      <PageHead title={title} sub={own ? 'What is kept is a draft; its revisions stay as they are' : 'What is kept is a draft of its own'}>
        <Button disabled={!undo} onClick={undo} title="Ctrl+Z">
          ↶ Back
        </Button>
        <Button disabled={!redo} onClick={redo} title="Ctrl+Y">
          ↷ Again
        </Button>
        <Button look="act" disabled={!ready} onClick={() => save.mutate(undefined)} title="Ctrl+S">
          Keep the draft
        </Button>
      </PageHead>
      {leaving}
      <div className="min-h-0 flex-1 space-y-3 overflow-auto p-4 lg:grid lg:grid-cols-[minmax(20rem,5fr)_minmax(24rem,6fr)] lg:grid-rows-[minmax(0,1fr)] lg:gap-3 lg:space-y-0">
        <div className="flex min-w-0 flex-col gap-3 lg:min-h-0 lg:overflow-auto">
          {!changed && (
            <Offer
              kept={kept}
              version={own ? (was?.version ?? 0) : 0}
              what={own ? (was?.name ?? '') : `a new ${kind}`}
              onDrop={settled}
              onTake={(k) => {
                setName(k.value.name);
                steps.replace({ symbol: k.value.symbol, landPattern: k.value.landPattern });
              }}
            />
          )}
          <div className="h-[24rem] shrink-0 lg:h-[55vh]">
            {shown && list && <Board steps={steps} list={list} unit={unit} step={by} label={name || title} />}
          </div>
          <Facts kind={kind} drawing={drawing} onSay={(column, value) => change({ do: 'drawing', column, value })} />
          <Says steps={steps} kind={kind} uses={was?.usedBy.map((u) => u.part) ?? []} part={part} onPart={setPart} />
        </div>
        <div className="flex min-w-0 flex-col gap-2 lg:min-h-0">
          <Field label={`Name of the ${kind}`} maxLength={100} required value={name} onChange={(e) => setName(e.target.value)} />
          {list && <Tools steps={steps} list={list} step={by} unit={unit} onStep={setStep} onUnit={setUnit} />}
          <Trouble error={steps.error ?? save.error} />
          <div className="h-96 lg:h-auto lg:min-h-60 lg:flex-1">
            {list && <Cells key={list.of} steps={steps} list={list} step={by} unit={unit} />}
          </div>
          <p className="text-xs text-soft">
            Lengths are in mm; 50 mil is understood too. Type or Enter: write into the cell, of all chosen rows. Shift with arrows: choose.
            Alt with arrows: move on the board by {by} mm. Insert: add. Delete: remove. Ctrl+Z, Ctrl+Y: back and again. A pasted column goes
            down the rows.
          </p>
        </div>
      </div>
    </>
  );
}

/** What is said of the drawing as a whole. */
function Facts({ kind, drawing, onSay }: { kind: Beside['kind']; drawing: Drawing; onSay: (column: string, value: string) => void }) {
  const land = drawing.landPattern;
  if (kind === 'symbol') return null;
  return (
    <div className="flex flex-wrap gap-3">
      <Select label="Density level" value={land?.density ?? ''} onChange={(e) => onSay('density', e.target.value)}>
        {['', 'most', 'nominal', 'least'].map((d) => (
          <option key={d} value={d}>
            {d || 'not said'}
          </option>
        ))}
      </Select>
      <Select label="Mounting" value={land?.mounting ?? ''} onChange={(e) => onSay('mounting', e.target.value)}>
        {['', 'surface', 'through', 'mixed'].map((d) => (
          <option key={d} value={d}>
            {d || 'not said'}
          </option>
        ))}
      </Select>
      <label className="flex items-center gap-2 text-sm">
        <input type="checkbox" checked={land?.overhang ?? false} onChange={(e) => onSay('overhang', e.target.checked ? 'yes' : '')} />
        the body reaches beyond the pads on purpose
      </label>
    </div>
  );
}

/** Findings of one cause by their first, with how many more there are. */
function alike(all: Tried['findings']): [Tried['findings'][number], number][] {
  return all
    .filter((f, i) => all.findIndex((g) => g.cause === f.cause) === i)
    .map((f) => [f, all.filter((g) => g.cause === f.cause).length - 1]);
}

/** What the house's rules say of the drawing, and what lies between it and the other models of a part. */
function Says({
  steps,
  kind,
  uses,
  part,
  onPart,
}: {
  steps: ReturnType<typeof useSteps>;
  kind: string;
  uses: string[];
  part: string;
  onPart: (part: string) => void;
}) {
  const { shown, change } = steps;
  if (!shown) return null;
  const rows = kind === 'symbol' ? (shown.symbol?.pins.length ?? 0) : (shown.landPattern?.pads.length ?? 0);
  return (
    <Panel title="While you draw">
      {rows === 0 && <p className="text-sm text-soft">Nothing to check yet: add the first {kind === 'symbol' ? 'pins' : 'pads'}.</p>}
      {rows > 0 && shown.findings.length === 0 && <p className="text-sm">✓ The house's rules have nothing to say.</p>}
      <ul className="space-y-1">
        {rows > 0 &&
          alike(shown.findings).map(([f, more]) => (
            <li key={f.cause} className="flex flex-wrap items-center gap-2 text-sm">
              <State of={f.severity} />{' '}
              <span className="flex-1">
                {f.what}
                {more > 0 && <span className="text-soft">, and {more} more like it</span>}
              </span>
              {f.waived && <span className="text-soft">accepted: {f.waived}</span>}
              {f.click && <Button onClick={() => change({ do: 'settle', value: f.cause })}>{f.click}</Button>}
            </li>
          ))}
      </ul>
      {uses.length > 0 && (
        <div className="mt-3 border-t border-line pt-2">
          <div className="mb-2 w-56">
            <Select label="Held against the models of" value={part} onChange={(e) => onPart(e.target.value)}>
              <option value="">no part</option>
              {uses.map((u) => (
                <option key={u}>{u}</option>
              ))}
            </Select>
          </div>
          {part && shown.fit.length === 0 && <p className="text-sm">✓ Pins, pads and body of {part} fit.</p>}
          <ul className="space-y-1">
            {shown.fit.map((f) => (
              <li key={f.cause + f.what} className="flex gap-2 text-sm">
                <State of={f.severity} /> <span>{f.what}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
    </Panel>
  );
}
