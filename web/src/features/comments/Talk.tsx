import { useState } from 'react';
import { Button, Chip, Panel, Select, TextArea, Trouble } from '../../ui/kit';
import { waited } from '../../ui/waited';
import { useMay } from '../people';
import { useComments, useSayIt, useSettleComment, type Comment } from './queries';

/** What people say about a thing or one of its values. abouts are the values that may be talked about, by key. */
export function Talk({ id, abouts = {}, about }: { id: string; abouts?: Record<string, string>; about?: string }) {
  const comments = useComments(id);
  const may = useMay();
  const [settledToo, setSettledToo] = useState(false);
  const all = comments.data?.items ?? [];
  const firsts = all.filter((c) => !c.answers && (about === undefined || c.about === about));
  const shown = firsts.filter((c) => settledToo || !c.settled);
  const settled = firsts.filter((c) => c.settled).length;
  const named = (key?: string) => (key ? (abouts[key] ?? key.replace('values.', '')) : '');
  return (
    <Panel
      title={comments.data?.open ? `Comments (${comments.data.open} open)` : 'Comments'}
      actions={
        settled > 0 && (
          <Button look="quiet" aria-pressed={settledToo} onClick={() => setSettledToo(!settledToo)}>
            {settledToo ? 'Hide settled' : `Show ${settled} settled`}
          </Button>
        )
      }
    >
      <Trouble error={comments.error} />
      {comments.data && shown.length === 0 && <p className="mb-2 text-sm text-soft">Nothing is open.</p>}
      <ol className="space-y-3 text-sm">
        {shown.map((c) => (
          <li key={c.id} className="border-l-2 border-line pl-2">
            <One c={c} about={named(c.about)} answers={all.filter((a) => a.answers === c.id)} thing={id} />
          </li>
        ))}
      </ol>
      {may('comment') && <Say thing={id} abouts={about === undefined ? abouts : {}} about={about} />}
    </Panel>
  );
}

function Line({ c }: { c: Comment }) {
  return (
    <p className="break-words whitespace-pre-wrap">
      <span className="text-xs text-soft" title={new Date(c.at).toLocaleString()}>
        {c.by}, {waited(c.at)} ago:{' '}
      </span>
      {c.text}
    </p>
  );
}

function One({ c, about, answers, thing }: { c: Comment; about: string; answers: Comment[]; thing: string }) {
  const may = useMay();
  const settle = useSettleComment();
  const [answering, setAnswering] = useState(false);
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5">
        {about && <Chip tone="plain">{about}</Chip>}
        {c.settled && <Chip tone="good">settled by {c.settledBy}</Chip>}
      </div>
      <Line c={c} />
      {answers.length > 0 && (
        <ol className="mt-1 space-y-1 pl-4">
          {answers.map((a) => (
            <li key={a.id}>
              <Line c={a} />
            </li>
          ))}
        </ol>
      )}
      <Trouble error={settle.error} />
      {may('comment') && (
        <div className="-ml-2.5">
          {!c.settled && (
            <Button look="quiet" aria-expanded={answering} onClick={() => setAnswering(!answering)}>
              Answer
            </Button>
          )}
          <Button look="quiet" disabled={settle.isPending} onClick={() => settle.mutate({ id: c.id, settled: !c.settled })}>
            {c.settled ? 'Open again' : 'Settle'}
          </Button>
        </div>
      )}
      {answering && <Say thing={thing} answers={c.id} onDone={() => setAnswering(false)} />}
    </>
  );
}

function Say({
  thing,
  abouts = {},
  about,
  answers,
  onDone,
}: {
  thing: string;
  abouts?: Record<string, string>;
  about?: string;
  answers?: string;
  onDone?: () => void;
}) {
  const say = useSayIt(thing);
  const [text, setText] = useState('');
  const [chosen, setChosen] = useState('');
  const send = () =>
    say.mutate(
      { text, about: about ?? (chosen || undefined), answers },
      {
        onSuccess: () => {
          setText('');
          setChosen('');
          onDone?.();
        },
      },
    );
  return (
    <form
      className="mt-2 space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        send();
      }}
    >
      <TextArea
        label={answers ? 'Your answer' : 'Say something'}
        hideLabel
        placeholder={answers ? 'Your answer' : 'Say something: it stays with the thing, and whoever it concerns is told'}
        rows={2}
        required
        maxLength={4000}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && (e.ctrlKey || e.metaKey) && text.trim()) {
            e.preventDefault();
            send();
          }
        }}
      />
      <Trouble error={say.error} />
      <div className="flex flex-wrap items-end gap-2">
        {Object.keys(abouts).length > 0 && (
          <Select label="About" value={chosen} onChange={(e) => setChosen(e.target.value)}>
            <option value="">all of it</option>
            {Object.entries(abouts).map(([key, label]) => (
              <option key={key} value={key}>
                {label}
              </option>
            ))}
          </Select>
        )}
        <Button type="submit" disabled={say.isPending || !text.trim()}>
          {answers ? 'Answer' : 'Say it'}
        </Button>
      </div>
    </form>
  );
}
