import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, take, type Schemas } from '../../api/client';
import { Button, Dialog, Trouble } from '../../ui/kit';
import { useCabinet } from '../cabinet/queries';
import { targetWords, useIntakeDeeds, type useEditIntake, type Intake } from './queries';

type Body = Schemas['IntakeEdit'];
type Try = Schemas['IntakeTry'];

/** What an edit would do, row by row; nothing is changed. */
export function useTry(i: Pick<Intake, 'id' | 'version'>, body: Try) {
  return useQuery({
    queryKey: ['intake-try', i.id, i.version, body],
    queryFn: () => take(api.POST('/api/v1/intakes/{id}/tries', { params: { path: { id: i.id } }, body: { ...body, limit: 200 } })),
  });
}

/** Puts the keys where they are expected: Enter does what was looked at, or leaves what somebody settled. */
const focused = (el: HTMLButtonElement | null) => el?.focus();

const rowsWord = (n: number) => (n === 1 ? '1 row' : `${n} rows`);

/** The rows that an edit moves: what each is and would be, and how somebody settled it before; those may be let change one by one. */
export function MovedTable({
  moved,
  let: chosen,
  onLet,
}: {
  moved: Schemas['IntakeMoved'][];
  let?: number[];
  onLet?: (rows: number[]) => void;
}) {
  const cabinet = useCabinet();
  const settled = moved.some((m) => m.settled);
  return (
    <div>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-xs text-soft">
            {['Row', 'MPN', 'What', 'Text', 'Is', 'Would be', settled ? 'Settled before' : ''].filter(Boolean).map((h) => (
              <th key={h} scope="col" className="pr-3 pb-1">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {moved.flatMap((m) =>
            m.moves.map((v, n) => (
              <tr key={`${m.row} ${v.what}`} className="border-t border-line align-top">
                <th scope="row" className="py-1 pr-3 text-left font-medium">
                  {n === 0 ? m.row : ''}
                </th>
                <td className="py-1 pr-3">{n === 0 ? m.mpn : ''}</td>
                <td className="py-1 pr-3">{targetWords(v.what, cabinet.data?.document.parameters ?? [])}</td>
                <td className="py-1 pr-3">{v.text}</td>
                <td className="py-1 pr-3">{v.from || <span className="text-soft">blank</span>}</td>
                <td className="py-1 pr-3 font-semibold">{v.to || <span className="text-soft">blank</span>}</td>
                {settled && (
                  <td className="py-1">
                    {n === 0 && m.settled && chosen && onLet ? (
                      <label className="flex items-start gap-1.5">
                        <input
                          type="checkbox"
                          aria-label={`Row ${m.row} may change`}
                          checked={chosen.includes(m.row)}
                          onChange={(e) => onLet(e.target.checked ? [...chosen, m.row] : chosen.filter((r) => r !== m.row))}
                        />
                        {m.settled}
                      </label>
                    ) : n === 0 ? (
                      m.settled
                    ) : (
                      ''
                    )}
                  </td>
                )}
              </tr>
            )),
          )}
        </tbody>
      </table>
    </div>
  );
}

/** The preview of a mend: every row that it changes, before it does; what somebody settled, and what goes, is said first. */
export function Preview({
  intake: i,
  title,
  body,
  choice,
  edit,
  onClose,
}: {
  intake: Intake;
  title: string;
  body: Body;
  choice?: Schemas['IntakeNewChoice']; // of the cabinet, in the place of an edit
  edit: ReturnType<typeof useEditIntake>;
  onClose: () => void;
}) {
  const tried = useTry(i, { ...body, choice });
  const { choice: add } = useIntakeDeeds(i.id);
  const t = tried.data;
  const [chosen, setChosen] = useState<number[]>([]); // settled rows that may change
  const go = (more: Body = {}) =>
    choice
      ? add.mutate(choice, { onSuccess: onClose })
      : edit.mutate({ version: i.version, body: { ...body, ...more } }, { onSuccess: onClose });
  const goes = t
    ? [t.leftOut > 0 && `${rowsWord(t.leftOut)} left out`, t.lost > 0 && `${t.lost} values gone: ${t.loses.join(', ')}`].filter(Boolean)
    : [];
  return (
    <Dialog title={title} open wide onClose={onClose}>
      <Trouble error={tried.error ?? edit.error ?? add.error} />
      {!t && !tried.error && <p className="text-sm">Working it out…</p>}
      {t && (
        <>
          <p className="mb-2 text-sm">
            {t.rows === 0 ? 'No row of this file would change.' : `${rowsWord(t.rows)} would become something else`}
            {t.settled > 0 && `, ${t.settled} of them settled before: they stand first`}
            {t.rows > 0 && '.'} {t.rows > t.moved.length && `The first ${t.moved.length} are shown.`}
          </p>
          {goes.length > 0 && (
            <p className="mb-2 rounded border border-rust bg-rust-tint px-2 py-1 text-sm font-semibold">▲ {goes.join('; ')}</p>
          )}
          {t.elsewhere && (
            <p className="mb-2 text-sm">
              {t.elsewhere.of === 0
                ? 'No other file of this layout is there.'
                : `Of ${t.elsewhere.of} other files of this layout ${t.elsewhere.files} say the same, in ${rowsWord(t.elsewhere.rows)}${t.elsewhere.named.length > 0 ? `: ${t.elsewhere.named.join(', ')}` : ''}.`}
            </p>
          )}
          {t.problem && <Trouble error={new Error(t.problem)} />}
          <div className="my-3 flex flex-wrap gap-2">
            {choice || t.settled === 0 ? (
              <Button
                ref={focused}
                look={goes.length > 0 ? 'danger' : 'act'}
                disabled={edit.isPending || add.isPending}
                onClick={() => go()}
              >
                {choice ? 'Add it to the cabinet' : t.rows === 0 ? 'Do it for later rows' : `Change ${rowsWord(t.rows)}`}
              </Button>
            ) : (
              <SettledChoice t={t} chosen={chosen} busy={edit.isPending} onGo={go} />
            )}
            <Button ref={t.settled > 0 ? focused : undefined} onClick={onClose}>
              Leave all as it is
            </Button>
          </div>
          {t.moved.length > 0 && <MovedTable moved={t.moved} let={chosen} onLet={setChosen} />}
        </>
      )}
    </Dialog>
  );
}

/** What becomes of rows that somebody settled: they stay and the others change, or they change too. */
export function SettledChoice({
  t,
  chosen,
  busy,
  onGo,
}: {
  t: { rows: number; settled: number };
  chosen: number[];
  busy: boolean;
  onGo: (more: Body) => void;
}) {
  const stay = t.settled - chosen.length;
  return (
    <>
      {stay > 0 && (
        <Button look="act" disabled={busy} onClick={() => onGo({ keepSettled: true, ...(chosen.length ? { evenRows: chosen } : {}) })}>
          Change {rowsWord(t.rows - stay)}, {stay === 1 ? '1 settled one stays' : `${stay} settled ones stay`}
        </Button>
      )}
      <Button look="danger" disabled={busy} onClick={() => onGo({ evenSettled: true })}>
        Change {rowsWord(t.rows)}, {t.settled === 1 ? '1 settled one' : `${t.settled} settled ones`} too
      </Button>
    </>
  );
}
