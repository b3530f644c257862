import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { backWith } from '../../ui/back';
import { Button, Chip, Dialog, Field, Select, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useCabinet } from '../cabinet/queries';
import { useTake, type Offered, type Question } from './queries';

/** What a product becomes: a draft, with what is still to be filled by hand, or another source of a part. */
export function TakeDialog({ row, question, into, onClose }: { row: Offered; question: Question; into?: string; onClose: () => void }) {
  const cabinet = useCabinet();
  const act = useTake();
  const say = useSay();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const [drawer, setDrawer] = useState(row.drawer);
  const [values, setValues] = useState<Record<string, string>>({});
  const [target, setTarget] = useState(into ?? '');
  const [separate, setSeparate] = useState('');
  const asSource = into !== undefined;
  const kind = cabinet.data?.drawers.find((d) => d.key === drawer);
  const open = kind?.slots.filter((s) => (s.required || s.byHand) && !row.values[s.key]) ?? [];
  const there = kind?.slots.filter((s) => row.values[s.key] && !s.byHand) ?? [];
  const offer = row.offers[0];
  return (
    <Dialog open title={asSource ? `${row.mpn} as another source` : `Take ${row.mpn} as a draft`} onClose={onClose}>
      <form
        className="space-y-3 text-sm"
        onSubmit={(e) => {
          e.preventDefault();
          if (!offer) return;
          act.mutate(
            {
              question: { ...question, again: false },
              supplier: offer.supplier,
              number: offer.number,
              into: asSource ? target.trim() : undefined,
              drawer: asSource ? undefined : drawer,
              values: Object.fromEntries(Object.entries(values).filter(([, v]) => v.trim() !== '')),
              keepSeparate: separate.trim() || undefined,
            },
            {
              onSuccess: (got) => {
                const differ = got.differ.length ? ` The supplier says otherwise: ${got.differ.join('; ')}.` : '';
                say(
                  asSource
                    ? `${got.part.number} has ${row.mpn} as a source now.${differ}`
                    : `${got.part.number} was made as a draft.${differ}`,
                );
                void navigate(backWith(params, got.part.number));
              },
            },
          );
        }}
      >
        {asSource ? (
          <Field
            label="Part"
            required
            value={target}
            onChange={(e) => setTarget(e.target.value)}
            hint="Only what it lacks is filled. Where the supplier says otherwise, the part stays as it is, and that is said."
          />
        ) : (
          <>
            <Select label="Drawer" required value={drawer} onChange={(e) => setDrawer(e.target.value)} hint={row.because}>
              <option value="">Choose…</option>
              {cabinet.data?.drawers
                .filter((d) => d.leaf)
                .map((d) => (
                  <option key={d.key} value={d.key}>
                    {d.label}
                  </option>
                ))}
            </Select>
            {row.own.length > 0 && (
              <Field
                label={`Why it stands beside ${row.own.join(', ')}, which has the same source`}
                required
                value={separate}
                onChange={(e) => setSeparate(e.target.value)}
              />
            )}
            <p>
              {drawer === row.drawer
                ? `From the suppliers: ${there.map((s) => `${s.label} ${row.values[s.key] ?? ''}`).join(', ') || 'no value that this drawer has a place for'}.`
                : 'What the suppliers say is read for this drawer when the draft is made.'}
            </p>
            {open.map((s) => {
              const label = `${s.label}${s.required ? '' : ' (by hand)'}`;
              const set = (v: string) => setValues({ ...values, [s.key]: v });
              return s.choices?.length ? (
                <Select key={s.key} label={label} value={values[s.key] ?? ''} onChange={(e) => set(e.target.value)}>
                  <option value="">Not said</option>
                  {s.choices.map((c) => (
                    <option key={c}>{c}</option>
                  ))}
                </Select>
              ) : (
                <Field key={s.key} label={label} value={values[s.key] ?? ''} onChange={(e) => set(e.target.value)} />
              );
            })}
          </>
        )}
        {row.differ.length > 0 && (
          <ul className="space-y-1">
            {row.differ.map((d) => (
              <li key={d}>
                <Chip tone="open">suppliers disagree</Chip> {d}
              </li>
            ))}
          </ul>
        )}
        <Trouble error={act.error} />
        <Button look="act" type="submit" disabled={act.isPending || !offer}>
          {asSource ? 'Make it a source' : 'Make the draft'}
        </Button>
      </form>
    </Dialog>
  );
}
