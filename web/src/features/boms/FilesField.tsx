import { Field } from '../../ui/kit';

/** A file of a BOM, with the variant of the board that it is of where each variant has one. */
export interface Chosen {
  file: File;
  variant: string;
}

/** The words of a file's name, without its ending. */
const wordsIn = (name: string) =>
  name
    .replace(/\.[^.]*$/, '')
    .split(/[\s_\-.,()]+/)
    .filter(Boolean);

const among = (words: string[], word: string) => words.some((w) => w.toLowerCase() === word.toLowerCase());

/** What file names have of their own: "mast-east.csv" beside "mast-west.csv" is east. */
export function variantsIn(names: string[]): string[] {
  const words = names.map(wordsIn);
  const own = words.map((w) => w.filter((x) => !words.every((o) => among(o, x))).join(' '));
  return own.every((n, i) => n && own.findIndex((o) => o.toLowerCase() === n.toLowerCase()) === i) ? own : names.map(() => '');
}

/** What file names have in common: the board, where each variant has a file. */
export function boardIn(names: string[]): string {
  const [first = '', ...rest] = names;
  if (rest.length === 0) return first.replace(/\.[^.]*$/, '');
  return wordsIn(first)
    .filter((w) => rest.every((n) => among(wordsIn(n), w)))
    .join(' ');
}

/** Takes the file of a BOM, or one of each variant of its board, and asks what those are called. */
export function FilesField({ chosen, onChange }: { chosen: Chosen[]; onChange: (c: Chosen[]) => void }) {
  return (
    <>
      <Field
        label="File"
        type="file"
        required
        multiple
        accept=".csv,.tsv,.txt,.xlsx,.ods,.json,.zip,.xml"
        hint="Where each variant of the board has a file, choose them all."
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          const names = variantsIn(files.map((f) => f.name));
          onChange(files.map((file, i) => ({ file, variant: files.length > 1 ? (names[i] ?? '') : '' })));
        }}
      />
      {chosen.length > 1 &&
        chosen.map((c, i) => (
          <Field
            key={i}
            label={`Variant of ${c.file.name}`}
            required
            maxLength={60}
            value={c.variant}
            onChange={(e) => onChange(chosen.map((o, k) => (k === i ? { ...o, variant: e.target.value } : o)))}
          />
        ))}
    </>
  );
}
