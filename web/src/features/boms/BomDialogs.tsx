import { useState } from 'react';
import { useNavigate } from 'react-router';
import { Button, Dialog, Field, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { FilesField, type Chosen } from './FilesField';
import { useBoms, useRename, useReplaceFile, useSayOrigin, type BOM, useRemoveBom } from './queries';

/** Gives a BOM another name. */
export function RenameDialog({ bom, onClose }: { bom: BOM; onClose: () => void }) {
  const [name, setName] = useState(bom.name);
  const rename = useRename();
  const go = useNavigate();
  return (
    <Dialog open title={`Rename ${bom.name}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          rename.mutate(
            { id: bom.id, version: bom.version, body: { name: name.trim() } },
            {
              onSuccess: (b) => {
                onClose();
                void go(`/boms/${encodeURIComponent(b.name)}`, { replace: true });
              },
            },
          );
        }}
      >
        <Field
          label="Name"
          value={name}
          onChange={(e) => setName(e.target.value)}
          maxLength={100}
          hint="What is frozen keeps the name that it was frozen under."
        />
        <Trouble error={rename.error} />
        <Button look="act" type="submit" disabled={rename.isPending || !name.trim() || name.trim() === bom.name}>
          Rename
        </Button>
      </form>
    </Dialog>
  );
}

/** Says who or what a BOM's files come from. */
export function OriginDialog({ bom, onClose }: { bom: BOM; onClose: () => void }) {
  const [origin, setOrigin] = useState(bom.origin ?? '');
  const save = useSayOrigin();
  return (
    <Dialog open title={`Where the files of ${bom.name} come from`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate({ id: bom.id, version: bom.version, body: { origin } }, { onSuccess: onClose });
        }}
      >
        <OriginField value={origin} onChange={setOrigin} />
        <Trouble error={save.error} />
        <Button look="act" type="submit" disabled={save.isPending}>
          Save
        </Button>
      </form>
    </Dialog>
  );
}

/** Where a file comes from; those that were said before are offered. */
export function OriginField({ value, onChange }: { value: string; onChange: (v: string) => void }) {
  const boms = useBoms();
  const known = [...new Set((boms.data?.items ?? []).flatMap((b) => b.origin ?? []))].sort();
  return (
    <>
      <Field
        label="Comes from"
        list="bom-origins"
        value={value}
        onChange={(e) => onChange(e.target.value)}
        maxLength={100}
        hint="The people or the tool. What you teach for lines counts for files of the same origin."
      />
      <datalist id="bom-origins">
        {known.map((o) => (
          <option key={o} value={o} />
        ))}
      </datalist>
    </>
  );
}

/** Lays another file of the same board in a BOM's place. */
export function FileDialog({ bom, at, onClose }: { bom: BOM; at: string; onClose: () => void }) {
  const [files, setFiles] = useState<Chosen[]>([]);
  const replace = useReplaceFile(at);
  const say = useSay();
  return (
    <Dialog open title={`Another file of ${bom.name}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (files.length === 0) return;
          replace.mutate(
            { id: bom.id, version: bom.version, body: files },
            {
              onSuccess: (b) => {
                say(`${b.name} is ${b.fileName} now: ${String(b.lines.length)} lines.`);
                onClose();
              },
            },
          );
        }}
      >
        <p className="text-sm">
          It takes the place of {bom.fileName}. What was decided stays for lines that say the same under the same designators; revisions
          stay as they are.
        </p>
        <FilesField chosen={files} onChange={setFiles} />
        <Trouble error={replace.error} />
        <Button look="act" type="submit" disabled={replace.isPending || files.length === 0}>
          {files.length > 1 ? 'Take these files' : 'Take this file'}
        </Button>
      </form>
    </Dialog>
  );
}

/** Removes a BOM that was never frozen; says what goes with it. */
export function RemoveDialog({ bom, onClose, onGone }: { bom: BOM; onClose: () => void; onGone: () => void }) {
  const remove = useRemoveBom();
  const say = useSay();
  const chosen = bom.lines.filter((l) => l.chosen).length;
  const frozen = bom.revision > 0;
  return (
    <Dialog open title={`Remove ${bom.name}`} onClose={onClose}>
      <p className="mb-3 text-sm">
        {frozen
          ? `It has ${bom.revision === 1 ? 'a frozen revision' : `${String(bom.revision)} frozen revisions`}, which stay as long as boards that were built of them. Rename it where its name is wanted for another.`
          : `It goes out of all lists, with what people decided for ${chosen === 1 ? '1 line' : `${String(chosen)} lines`}; its name is free again, and its trail is kept. What was taught for such lines stays.`}
      </p>
      <Trouble error={remove.error} />
      {!frozen && (
        <Button
          look="act"
          disabled={remove.isPending}
          onClick={() =>
            remove.mutate(
              { id: bom.id, version: bom.version },
              {
                onSuccess: (gone) => {
                  say(`${gone.name} is removed.`);
                  onGone();
                },
              },
            )
          }
        >
          Remove it
        </Button>
      )}
    </Dialog>
  );
}
