import { useState } from 'react';
import { Button, Chip, Dialog, Field, Select, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { closed, useLife } from '../lifecycles';
import { useFreeze, type BOM } from './queries';

/** Makes the next revision. What keeps it from being a promise is said first; a reason lets it be made all the same, where the house's lifecycle lets it. */
export function FreezeDialog({ bom, at, onClose }: { bom: BOM; at: string; onClose: () => void }) {
  const [note, setNote] = useState('');
  const [anyway, setAnyway] = useState('');
  const [minor, setMinor] = useState<boolean>();
  const freeze = useFreeze(at);
  const life = useLife(bom.id);
  const say = useSay();
  const {
    open = 0,
    unreleased: draft = 0,
    'fitted-unclear': unclear = 0,
    'level-unclear': astray = 0,
    'board-open': board = 0,
  } = bom.hindered as Partial<Record<string, number>>;
  const hindered = Object.keys(bom.hindered).length > 0;
  const move = life.data?.moves.find((m) => m.releases);
  const shut = move ? closed(move) : [];
  const small = minor ?? move?.minor ?? false;
  return (
    <Dialog open title={`Freeze the next revision of ${bom.name}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          freeze.mutate(
            { id: bom.id, version: bom.version, body: { note, anyway: anyway || undefined, minor: move?.asMinor ? small : undefined } },
            {
              onSuccess: (b) => {
                say(`Revision ${b.states.label} of ${b.name} is frozen.`);
                onClose();
              },
            },
          );
        }}
      >
        <p className="text-sm">
          {bom.lines.length === 1 ? '1 line is' : `${bom.lines.length} lines are`} pinned to the exact revisions of their parts that are in
          use now{bom.build ? `, and what ${bom.build} boards${bom.variant ? ` of ${bom.variant}` : ''} cost today is kept with them` : ''}.
          A revision never changes again.
        </p>
        {life.data && !move && (
          <p className="text-sm">By its lifecycle it is not frozen from where it is: move it on first, on the page of its revisions.</p>
        )}
        {(shut.length > 0 || move?.not) && (
          <ul aria-label="What keeps it from it" className="space-y-1 rounded border border-rust p-2 text-sm">
            {move?.not && <li>{move.not}</li>}
            {shut.map((g) => (
              <li key={g.gate + g.why}>
                <Chip tone="bad">{g.gate}</Chip> {g.why}
                {g.mend && <span className="text-soft">: {g.mend}</span>}
              </li>
            ))}
          </ul>
        )}
        {move?.asMinor && (
          <Select
            label="Counted as"
            value={small ? 'minor' : 'major'}
            onChange={(e) => setMinor(e.target.value === 'minor')}
            hint={`Suggested: ${move.minor ? 'minor' : 'major'}, because ${move.because}`}
          >
            <option value="minor">minor: {move.asMinor}</option>
            <option value="major">major: {move.asMajor}</option>
          </Select>
        )}
        <Field label="What it is for" required value={note} onChange={(e) => setNote(e.target.value)} maxLength={500} />
        {hindered && (
          <Field
            label="Why it is frozen all the same"
            value={anyway}
            onChange={(e) => setAnyway(e.target.value)}
            maxLength={500}
            hint={[
              open ? `${open === 1 ? '1 line has' : `${open} lines have`} no record` : '',
              draft ? `${draft === 1 ? '1 record is' : `${draft} records are`} not released` : '',
              board ? `${board === 1 ? '1 line is' : `${board} lines are`} another BOM of which no revision can be taken` : '',
              astray ? `of ${astray === 1 ? '1 line' : `${astray} lines`} it is not clear what they are part of` : '',
              unclear ? `of ${unclear === 1 ? '1 line' : `${unclear} lines`} it is not clear whether they are fitted` : '',
            ]
              .filter(Boolean)
              .join(', ')
              .concat('. Without a reason it is refused; with one they are left without a pin.')}
          />
        )}
        <Trouble error={freeze.error} />
        <Button look="act" type="submit" disabled={freeze.isPending || shut.length > 0 || !note.trim() || (hindered && !anyway.trim())}>
          Freeze
        </Button>
      </form>
    </Dialog>
  );
}
