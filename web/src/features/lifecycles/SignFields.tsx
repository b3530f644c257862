import { Field } from '../../ui/kit';

interface Props {
  against: string;
  setAgainst: (text: string) => void;
  /** Items that are not ticked. */
  open: number;
  all: boolean;
  setAll: (on: boolean) => void;
}

/** What a signature says: what the lists were laid beside, and that the open items were looked at too. */
export function SignFields({ against, setAgainst, open, all, setAll }: Props) {
  return (
    <>
      <Field
        label="Laid beside"
        hint="The datasheet, with its page"
        required
        maxLength={500}
        value={against}
        onChange={(e) => setAgainst(e.target.value)}
      />
      {open > 0 && (
        <label className="flex gap-2 text-sm">
          <input type="checkbox" required checked={all} onChange={(e) => setAll(e.target.checked)} />I looked at the {open} open{' '}
          {open === 1 ? 'item' : 'items'} too
        </label>
      )}
    </>
  );
}
