import { Button } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useWatches, useWatching, type Of } from './queries';

/** Begins or ends the watch of something; about is what it is known by: an identifier, a key, or a question. */
export function WatchButton({ of, about, name }: { of: Of; about: string; name: string }) {
  const watches = useWatches();
  const watching = useWatching();
  const say = useSay();
  if (!watches.data) return null;
  const on = watches.data.items.some((w) => w.of === of && w.about === about);
  return (
    <Button
      aria-pressed={on}
      title={on ? `You are told of what is done to ${name}` : `Be told of what is done to ${name}`}
      disabled={watching.isPending}
      onClick={() =>
        watching.mutate(
          { of, about, end: on },
          {
            onSuccess: () => say(on ? `You hear no more of ${name}.` : `You hear of ${name} from now on: in your notices.`),
            onError: (e) => say(e.message),
          },
        )
      }
    >
      {on ? '◉ Watched' : '○ Watch'}
    </Button>
  );
}
