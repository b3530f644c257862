import { useJob } from '../../api/job';
import { Button, Trouble } from '../../ui/kit';
import { useMay } from '../people';
import { useFetchLinked, type Part } from './queries';

/** Datasheets that are only links: a link dies, a file stays. */
export function LinkedSheets({ part, links }: { part: Part; links: string[] }) {
  const may = useMay();
  const fetch = useFetchLinked(part.id);
  const job = useJob(fetch.data?.id);
  const busy = fetch.isPending || (fetch.data !== undefined && (!job.data || ['waiting', 'running'].includes(job.data.state)));
  const done = job.data?.fetched;
  return (
    <div className="mt-1 space-y-1 text-sm">
      <ul>
        {links.map((l) => (
          <li key={l} className="break-all">
            <a className="underline" href={l} target="_blank" rel="noreferrer noopener">
              {l}
            </a>{' '}
            <span className="text-soft">not fetched yet</span>
          </li>
        ))}
      </ul>
      {may('part.edit') && (
        <Button disabled={busy} onClick={() => fetch.mutate()}>
          {busy ? 'Fetching…' : links.length === 1 ? 'Fetch the file' : `Fetch ${links.length} files`}
        </Button>
      )}
      <div role="status">
        {job.data?.state === 'failed' && <Trouble error={new Error(job.data.error ?? '')} />}
        {done?.dead ? <p>{done.dead === 1 ? 'One link leads' : `${done.dead} links lead`} to no PDF any more.</p> : null}
        {done?.other.map((o) => (
          <p key={o}>Left a link: {o}</p>
        ))}
      </div>
      <Trouble error={fetch.error} />
    </div>
  );
}
