import { useState } from 'react';
import { Button, Dialog, Field, TextArea, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useSayBuying, type BOM, type Rules } from './queries';

const list = (text: string) =>
  text
    .split(/[\n,;]/)
    .map((s) => s.trim())
    .filter(Boolean);

/** Spare parts as lines such as "resistors 2% 5"; a line without a drawer is for any. */
const written = (r: Rules) => (r.spares ?? []).map((s) => [s.drawer, `${s.percent ?? 0}%`, s.pieces ?? 0].filter((x) => x !== '' && x !== undefined).join(' ')).join('\n'); // prettier-ignore

/** Reads them; says which line is none. */
export function sparesOf(text: string): { spares: NonNullable<Rules['spares']>; wrong?: string } {
  const spares: NonNullable<Rules['spares']> = [];
  for (const line of text
    .split('\n')
    .map((l) => l.trim())
    .filter(Boolean)) {
    // prettier-ignore
    const m = /^([a-z0-9_-]*?)\s*(?:(\d{1,4})\s*%)?\s*(?:\+?\s*(\d{1,7}))?$/i.exec(line);
    if (!m || (m[2] === undefined && m[3] === undefined)) return { spares, wrong: `“${line}” is no drawer with a share and pieces` };
    spares.push({ drawer: m[1] || undefined, percent: Number(m[2] ?? 0), pieces: Number(m[3] ?? 0) });
  }
  return { spares };
}

/** How a BOM's parts are bought: what the cost is worked out by. */
export function BuyingDialog({ bom, at, mayEdit, onClose }: { bom: BOM; at: string; mayEdit: boolean; onClose: () => void }) {
  const was = bom.buying;
  const [few, setFew] = useState(was.few ?? false);
  const [firstOnly, setFirstOnly] = useState(was.firstOnly ?? false);
  const [prefer, setPrefer] = useState((was.prefer ?? []).join(', '));
  const [exclude, setExclude] = useState((was.exclude ?? []).join(', '));
  const [spare, setSpare] = useState(written(was));
  const buying = useSayBuying(at);
  const say = useSay();
  const { spares, wrong } = sparesOf(spare);
  return (
    <Dialog open title={`How the parts of ${bom.name} are bought`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (wrong) return;
          buying.mutate(
            { id: bom.id, version: bom.version, body: { few, firstOnly, prefer: list(prefer), exclude: list(exclude), spares } },
            {
              onSuccess: () => {
                say('The cost is worked out anew.');
                onClose();
              },
            },
          );
        }}
      >
        <fieldset disabled={!mayEdit} className="space-y-3">
          <label className="flex items-center gap-2 text-sm">
            <input type="checkbox" checked={few} onChange={(e) => setFew(e.target.checked)} /> Rather from few suppliers than for the lowest
            sum
          </label>
          <label className="flex items-center gap-2 text-sm">
            <input type="checkbox" checked={firstOnly} onChange={(e) => setFirstOnly(e.target.checked)} /> Only the first source of a part,
            no alternate
          </label>
          <Field
            label="Preferred suppliers"
            value={prefer}
            onChange={(e) => setPrefer(e.target.value)}
            hint="Taken where one of them has enough in stock, whatever others ask."
          />
          <Field label="Suppliers that nothing is bought from" value={exclude} onChange={(e) => setExclude(e.target.value)} />
          <TextArea
            label="Spare parts"
            rows={4}
            value={spare}
            error={wrong}
            onChange={(e) => setSpare(e.target.value)}
            hint="A line for each drawer: its key, a share of what the boards take and a number of pieces; the larger counts. Without a drawer it is for any: passives 2% 5"
          />
        </fieldset>
        <Trouble error={buying.error} />
        {mayEdit && (
          <Button look="act" type="submit" disabled={buying.isPending || !!wrong}>
            Keep
          </Button>
        )}
      </form>
    </Dialog>
  );
}
