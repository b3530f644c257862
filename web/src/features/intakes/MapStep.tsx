import { useCabinet } from '../cabinet/queries';
import { useState } from 'react';
import type { Schemas } from '../../api/client';
import { Button, Chip, Panel } from '../../ui/kit';
import { useMay } from '../people';
import { RuleDialog } from './RuleDialog';
import { EditTrouble } from './EditTrouble';
import { targetWords, useEditIntake, type Intake, type Rule } from './queries';

/** Which field fills what: the fields of the file on the left, how far they fill each drawer on the right. */
export function MapStep({ intake: i }: { intake: Intake }) {
  const edit = useEditIntake(i.id);
  const may = useMay();
  const cabinet = useCabinet();
  const [editing, setEditing] = useState<{ rule: Rule; was?: Rule; take?: string }>();
  const change = (body: Schemas['IntakeEdit']) => edit.mutate({ version: i.version, body });
  const label = (to: string) => targetWords(to, cabinet.data?.document.parameters ?? []);
  const rules = i.crosswalk?.fields ?? [];
  const takes = Object.entries(i.crosswalk?.take ?? {});
  const certain = i.suggestions.filter((s) => s.sure === 'certain').length;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-1 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
      <div className="min-h-0 overflow-auto p-3">
        <div className="mb-2 flex flex-wrap items-center gap-2">
          <h2 className="flex-1 text-sm font-semibold">
            Fields of the file{' '}
            <span className="font-normal text-soft">
              crosswalk of {i.supplier}: {i.revision ? `revision ${i.revision}` : 'none yet'}
              {i.changes.length > 0 && ` with ${i.changes.length} changes made here`}
            </span>
          </h2>
          {may('intake.edit') && certain > 0 && (
            <Button look="act" disabled={edit.isPending} onClick={() => change({ suggested: true })}>
              Take over {certain} suggestions
            </Button>
          )}
          {may('intake.edit') && <Button onClick={() => setEditing({ rule: { from: '', to: '' } })}>Another rule…</Button>}
        </div>
        <EditTrouble intake={i} edit={edit} />
        <table className="w-full text-sm">
          <thead>
            <tr className="border-b border-line text-left text-xs text-soft">
              <th className="py-1 font-semibold">Field</th>
              <th className="font-semibold">Some of its texts</th>
              <th className="font-semibold">Fills</th>
              <th>
                <span className="sr-only">Change</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {i.fields.map((f) => {
              const fills = rules.filter((r) => r.from === f || (r.combine ?? '').includes(`{${f}}`));
              const places = takes.filter(([, field]) => field === f);
              const unused = i.crosswalk?.unused?.includes(f);
              const guess = i.suggestions.find((s) => s.from === f);
              return (
                <tr key={f} className="border-b border-line/60 align-top">
                  <td className="py-1 pr-2 font-semibold">{f}</td>
                  <td className="max-w-48 truncate py-1 pr-2 text-soft">{(i.samples[f] ?? []).join(' · ')}</td>
                  <td className="py-1 pr-2">
                    {places.map(([place]) => (
                      <span key={place} className="mr-2">
                        <Chip tone="good">{label('take.' + place)}</Chip>
                      </span>
                    ))}
                    {fills.map((r, n) => (
                      <button
                        key={n}
                        type="button"
                        className="mr-2 text-left underline"
                        onClick={() => setEditing({ rule: r, was: r })}
                        disabled={!may('intake.edit')}
                      >
                        {label(r.to)}
                        {ruleWords(r)}
                      </button>
                    ))}
                    {unused && <Chip>left out</Chip>}
                    {fills.length + places.length === 0 && !unused && guess && (
                      <span>
                        <Chip tone="open">{guess.sure === 'certain' ? 'suggested' : 'perhaps'}</Chip> {label(guess.to)}{' '}
                        <span className="text-xs text-soft">{guess.reason}</span>
                      </span>
                    )}
                  </td>
                  <td className="py-0.5 text-right whitespace-nowrap">
                    {may('intake.edit') && fills.length + places.length === 0 && !unused && guess && (
                      <Button
                        look="quiet"
                        aria-label={`Take over the suggestion for ${f}`}
                        onClick={() =>
                          change({
                            changes: [
                              guess.to.startsWith('take.')
                                ? { take: { [guess.to.slice(5)]: f } }
                                : { rule: { from: f, to: guess.to, unit: guess.unit, caseSystem: guess.caseSystem } },
                            ],
                          })
                        }
                      >
                        Take over
                      </Button>
                    )}
                    {may('intake.edit') && (
                      <Button
                        look="quiet"
                        aria-label={`Map ${f}`}
                        onClick={() => setEditing({ rule: { from: f, to: guess?.to.startsWith('take.') ? '' : (guess?.to ?? '') } })}
                      >
                        Map…
                      </Button>
                    )}
                  </td>
                </tr>
              );
            })}
            {rules
              .filter((r) => r.constant)
              .map((r, n) => (
                <tr key={`c${n}`} className="border-b border-line/60">
                  <td className="py-1 text-soft">no field</td>
                  <td />
                  <td className="py-1">
                    <button type="button" className="underline" onClick={() => setEditing({ rule: r, was: r })}>
                      {label(r.to)} is always “{r.constant}”{ruleWords(r)}
                    </button>
                  </td>
                  <td />
                </tr>
              ))}
          </tbody>
        </table>
        {i.changes.length > 0 && (
          <Panel title="Changes of the crosswalk made here">
            <p className="mb-1 text-xs text-soft">They become the supplier’s crosswalk when the intake is taken in. Until then each can be taken back.</p>
            <ul className="text-sm">
              {i.changes.map((c, n) => (
                <li key={n} className="flex items-center justify-between gap-2">
                  {c}
                  {may('intake.edit') && (
                    <Button look="quiet" aria-label={`Take back: ${c}`} onClick={() => change({ dropChanges: [n] })}>
                      Take back
                    </Button>
                  )}
                </li>
              ))}
            </ul>
          </Panel>
        )}
      </div>
      <CoverageView intake={i} />
      {editing && (
        <RuleDialog
          intake={i}
          start={editing.rule}
          was={editing.was}
          busy={edit.isPending}
          error={edit.error}
          onClose={() => setEditing(undefined)}
          onSave={(body) => edit.mutate({ version: i.version, body }, { onSuccess: () => setEditing(undefined) })}
        />
      )}
    </div>
  ); // prettier-ignore
}

function ruleWords(r: Rule) {
  const out = [
    r.drawers?.length ? `in ${r.drawers.join(', ')}` : '',
    r.unit && `in ${r.unit}`,
    r.piece && 'a piece of it',
    r.doubt && `as though ${r.doubt}`,
    r.end && `its ${r.end} end`,
    r.words && `${Object.keys(r.words).length} replaced`,
    r.caseSystem && `${r.caseSystem} codes`,
  ].filter(Boolean);
  return out.length ? ` (${out.join(', ')})` : '';
}

/** Per drawer: which parameters are filled, which required ones are not, which are to be filled by hand. */
function CoverageView({ intake: i }: { intake: Intake }) {
  return (
    <aside aria-label="Coverage" className="min-h-0 space-y-3 overflow-auto border-l border-line bg-ground p-3">
      {i.coverage.length === 0 && <p className="text-sm text-soft">No row has a drawer yet.</p>}
      {i.coverage.map((d) => (
        <Panel key={d.drawer} title={`${d.label}: ${d.rows} rows`}>
          <ul className="space-y-1 text-sm">
            {d.parameters
              .filter((p) => p.from.length > 0 || p.required || p.byHand)
              .map((p) => (
                <li key={p.key} className="grid grid-cols-[9rem_4.5rem_1fr] items-center gap-2">
                  <span className="truncate">
                    {p.label}
                    {p.required && ' *'}
                  </span>
                  <span className="h-2 overflow-hidden rounded bg-tint" aria-hidden="true">
                    <span
                      className={`block h-full ${p.filled < d.rows && p.required ? 'bg-rust' : 'bg-moss'}`}
                      style={{ width: `${(100 * p.filled) / Math.max(1, d.rows)}%` }}
                    />
                  </span>
                  <span className="truncate text-xs text-soft">
                    {p.byHand
                      ? 'to be filled by hand'
                      : `${p.filled} filled${p.unread ? `, ${p.unread} not read` : ''}${p.from.length ? ` from ${p.from.join(', ')}` : ': nothing fills it'}`}
                  </span>
                </li>
              ))}
          </ul>
          {d.unusedFacts > 0 && (
            <p className="mt-2 text-xs text-soft">
              {d.unusedFacts === 1
                ? '1 fact in the rows’ descriptions is'
                : `${d.unusedFacts.toLocaleString('en')} facts in the rows’ descriptions are`}{' '}
              not used: map the description field to take them.
            </p>
          )}
        </Panel>
      ))}
    </aside>
  );
}
