import { useState, type ReactNode } from 'react';
import { Button, Dialog, TextArea, Trouble } from '../../ui/kit';

/** A document that the house has one of: looked at, changed on the version that was seen, and put in force. */
export function HouseDocument({
  title,
  says,
  of,
  trouble,
  wrong,
  busy,
  mayApply,
  onApply,
  onClose,
  children,
}: {
  title: string;
  /** What the document is for, and how it is written. */
  says: ReactNode;
  of?: { version: number; text: string };
  /** Why it cannot be shown, and why it was not taken. */
  trouble: unknown;
  wrong: unknown;
  busy: boolean;
  mayApply: boolean;
  onApply: (v: { version: number; text: string }) => void;
  onClose: () => void;
  /** What stands beside it. */
  children: ReactNode;
}) {
  const [text, setText] = useState<string>();
  return (
    <Dialog open wide title={title} onClose={onClose}>
      <Trouble error={trouble} />
      {of && (
        <form
          className="grid gap-4 lg:grid-cols-2"
          onSubmit={(e) => {
            e.preventDefault();
            onApply({ version: of.version, text: text ?? of.text });
          }}
        >
          <div className="space-y-3">
            <p className="text-sm">{says}</p>
            <TextArea
              label="Document"
              rows={18}
              spellCheck={false}
              readOnly={!mayApply}
              value={text ?? of.text}
              onChange={(e) => setText(e.target.value)}
            />
            <Trouble error={wrong} />
            {mayApply && (
              <Button look="act" type="submit" disabled={busy || text === undefined || text === of.text}>
                Put it in force
              </Button>
            )}
          </div>
          {children}
        </form>
      )}
    </Dialog>
  );
}
