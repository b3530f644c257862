import { useState } from 'react';
import { Button, Menu, Select } from '../../../ui/kit';
import { StepDialog } from './StepDialog';
import { type Change, type List, type Of, type Steps } from './steps';

const forms = ['rectangle', 'line', 'polygon', 'circle', 'arc', 'text'];
const stepsOf = ['2.54', '1.27', '0.635', '0.5', '0.25', '0.1', '0.05', '0.025', '0.01'];

type Asking = 'add' | 'copy' | 'number' | 'spread' | 'units';

/** What can be done with the chosen rows, and to which list. */
export function Tools({
  steps,
  list,
  step,
  unit,
  onStep,
  onUnit,
}: {
  steps: Steps;
  list: List;
  step: string;
  unit: number;
  onStep: (step: string) => void;
  onUnit: (unit: number) => void;
}) {
  const { shown, chosen, choose, change, drawing } = steps;
  const of = list.of as Of;
  const rows = chosen.of === of ? chosen.rows : [];
  const [asking, ask] = useState<Asking>();
  const none = rows.length === 0;
  const units = drawing.symbol?.units ?? [];
  const act = (c: Omit<Change, 'of' | 'rows'>) => change({ ...c, of, rows });
  const point = (said: Record<string, string>) => (said.x || said.y ? { x: said.x || '0', y: said.y || '0' } : undefined);
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-end gap-2">
        <div role="tablist" aria-label="Lists of the drawing" className="flex gap-1">
          {(shown?.lists ?? []).map((l) => (
            <button
              key={l.of}
              type="button"
              role="tab"
              aria-selected={l.of === of}
              onClick={() => choose({ of: l.of as Of, rows: [] })}
              className={`min-h-7 rounded border px-2.5 py-1 text-sm ${l.of === of ? 'border-water bg-tint font-semibold' : 'border-line bg-sheet'}`}
            >
              {l.of} <span className="text-soft">{l.rows.length}</span>
            </button>
          ))}
        </div>
        <div className="w-28">
          <Select label="Step, mm" value={step} onChange={(e) => onStep(e.target.value)}>
            {(stepsOf.includes(step) ? stepsOf : [step, ...stepsOf]).map((s) => (
              <option key={s}>{s}</option>
            ))}
          </Select>
        </div>
        {drawing.symbol && units.length > 1 && (
          <div className="w-36">
            <Select label="Unit that is drawn" value={unit} onChange={(e) => onUnit(Number(e.target.value))}>
              {units.map((u, i) => (
                <option key={u} value={i + 1}>
                  {u}
                </option>
              ))}
            </Select>
          </div>
        )}
        {drawing.symbol && <Button onClick={() => ask('units')}>Units…</Button>}
      </div>
      <div className="flex flex-wrap gap-2">
        <Button look="act" onClick={() => ask('add')}>
          Add…
        </Button>
        <Button disabled={none} onClick={() => ask('copy')}>
          Copy…
        </Button>
        {of !== 'graphics' && (
          <Button disabled={none} onClick={() => ask('number')}>
            Number on…
          </Button>
        )}
        <Menu
          label={`Arrange ${rows.length || ''} ▾`}
          items={[
            { text: 'Turn left by 90°', onSelect: () => act({ do: 'turn', angle: '90' }) },
            { text: 'Turn right by 90°', onSelect: () => act({ do: 'turn', angle: '270' }) },
            { text: 'Mirror left to right', onSelect: () => act({ do: 'mirror' }) },
            ...['left', 'right', 'top', 'bottom'].map((value) => ({
              text: `Align to the ${value}`,
              onSelect: () => act({ do: 'align', value }),
            })),
            { text: 'Spread evenly', onSelect: () => act({ do: 'spread' }) },
            { text: 'Spread by a distance…', onSelect: () => ask('spread') },
            { text: `Onto the grid of ${step} mm`, onSelect: () => act({ do: 'snap', value: step }) },
          ]}
        />
        <Button look="danger" disabled={none} onClick={() => act({ do: 'remove' })}>
          Remove {rows.length || ''}
        </Button>
      </div>
      {asking === 'add' && (
        <StepDialog
          title={of === 'graphics' ? 'Add graphics' : `Add ${of}`}
          act="Add"
          fields={[
            ...(of === 'graphics'
              ? [{ key: 'value', label: 'Form', choices: forms, value: 'rectangle' }]
              : [{ key: 'value', label: 'First number', hint: 'Blank: on from the last one' }]),
            { key: 'count', label: 'How many', value: '1', required: true },
            { key: 'x', label: 'Each further right by, mm', hint: 'Blank: as far as the last two lie apart' },
            { key: 'y', label: 'Each further up by, mm', hint: 'Below zero: down' },
          ]}
          onClose={() => ask(undefined)}
          onDo={(s) => act({ do: 'add', count: Number(s.count) || 1, value: s.value || undefined, by: point(s), unit: unit || undefined })}
        />
      )}
      {asking === 'copy' && (
        <StepDialog
          title={`Copy ${rows.length} of the ${of}`}
          act="Copy"
          fields={[
            { key: 'x', label: 'Right by, mm' },
            { key: 'y', label: 'Up by, mm' },
            { key: 'angle', label: 'Turned about the origin by', choices: ['0', '90', '180', '270'] },
            ...(of === 'graphics' ? [] : [{ key: 'value', label: 'First number', hint: 'Blank: on from the last one' }]),
          ]}
          onClose={() => ask(undefined)}
          onDo={(s) => act({ do: 'copy', by: point(s), angle: s.angle || undefined, value: s.value || undefined })}
        />
      )}
      {asking === 'number' && (
        <StepDialog
          title={`Number ${rows.length} of the ${of}, in the order in which they were chosen`}
          act="Number"
          fields={[{ key: 'value', label: 'On from', required: true, value: '1' }]}
          onClose={() => ask(undefined)}
          onDo={(s) => act({ do: 'number', value: s.value })}
        />
      )}
      {asking === 'spread' && (
        <StepDialog
          title={`Spread ${rows.length} of the ${of}`}
          act="Spread"
          fields={[{ key: 'value', label: 'From one to the next, mm', required: true, value: step }]}
          onClose={() => ask(undefined)}
          onDo={(s) => act({ do: 'spread', value: s.value })}
        />
      )}
      {asking === 'units' && (
        <StepDialog
          title="Units of the symbol"
          act="Name the units"
          fields={[{ key: 'value', label: 'Names, parted by semicolons', hint: 'Blank: one unit', value: units.join('; ') }]}
          onClose={() => ask(undefined)}
          onDo={(s) => {
            change({ do: 'drawing', column: 'units', value: s.value });
            onUnit(s.value ? 1 : 0);
          }}
        />
      )}
    </div>
  );
}
