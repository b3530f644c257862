import { useRef, useState } from 'react';
import { upload } from '../../api/client';
import { Field, Trouble } from '../../ui/kit';

/**
 * A field for the file of a table. onFile is told that one is on its way (undefined), its hash when it is kept, and nothing (blank) where it cannot be.
 * Of two files that were chosen one after the other only the last counts, whichever arrives first.
 */
export function TableFile({ onFile }: { onFile: (hash: string | undefined) => void }) {
  const [error, setError] = useState<unknown>();
  const last = useRef<File>(undefined);
  return (
    <>
      <Field
        label="or a file"
        type="file"
        onChange={(e) => {
          const f = e.target.files?.[0];
          if (!f) return;
          last.current = f;
          setError(undefined);
          onFile(undefined);
          upload(f).then(
            (kept) => last.current === f && onFile(kept.hash),
            (why: unknown) => {
              if (last.current !== f) return;
              setError(why);
              onFile('');
            },
          );
        }}
      />
      <Trouble error={error} />
    </>
  );
}
