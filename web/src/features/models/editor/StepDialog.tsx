import { useState } from 'react';
import { Button, Dialog, Field, Select } from '../../../ui/kit';

interface Asked {
  key: string;
  label: string;
  hint?: string;
  value?: string;
  choices?: string[];
  required?: boolean;
}

/** Asks what a step of several rows needs to know. */
export function StepDialog({
  title,
  act,
  fields,
  onDo,
  onClose,
}: {
  title: string;
  act: string;
  fields: Asked[];
  onDo: (said: Record<string, string>) => void;
  onClose: () => void;
}) {
  const [said, say] = useState<Record<string, string>>(() => Object.fromEntries(fields.map((f) => [f.key, f.value ?? ''])));
  return (
    <Dialog title={title} open onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          onDo(Object.fromEntries(Object.entries(said).map(([k, v]) => [k, v.trim()])));
          onClose();
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          {fields.map((f) =>
            f.choices ? (
              <Select
                key={f.key}
                label={f.label}
                hint={f.hint}
                value={said[f.key]}
                onChange={(e) => say({ ...said, [f.key]: e.target.value })}
              >
                {f.choices.map((c) => (
                  <option key={c}>{c}</option>
                ))}
              </Select>
            ) : (
              <Field
                key={f.key}
                label={f.label}
                hint={f.hint}
                required={f.required}
                value={said[f.key]}
                onChange={(e) => say({ ...said, [f.key]: e.target.value })}
              />
            ),
          )}
        </div>
        <Button look="act" type="submit">
          {act}
        </Button>
      </form>
    </Dialog>
  );
}
