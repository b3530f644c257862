import { useEffect, useRef, useState } from 'react';
import type { Schemas } from '../../api/client';
import { Button } from '../../ui/kit';
import type { Mesh } from './step.worker';

/** A body in space, read and drawn only when somebody asks: the reader alone is some megabytes. */
export function Solid({
  hash,
  name,
  land,
  place,
}: {
  hash: string;
  name: string;
  land?: Schemas['ModelLandPattern'];
  place?: Schemas['ModelPlacement'];
}) {
  const [wanted, setWanted] = useState(false);
  return (
    <div className="mt-2">
      {wanted ? <Scene {...{ hash, name, land, place }} /> : <Button onClick={() => setWanted(true)}>Show in 3D</Button>}
    </div>
  );
}

function Scene({
  hash,
  name,
  land,
  place,
}: {
  hash: string;
  name: string;
  land?: Schemas['ModelLandPattern'];
  place?: Schemas['ModelPlacement'];
}) {
  const at = useRef<HTMLDivElement>(null);
  const [state, setState] = useState('Reading the STEP file…');
  useEffect(() => {
    const worker = new Worker(new URL('./step.worker.ts', import.meta.url), { type: 'module' });
    let down: (() => void) | undefined;
    let gone = false;
    worker.onmessage = async (e: MessageEvent<{ meshes?: Mesh[]; error?: string }>) => {
      if (e.data.error || !e.data.meshes) {
        setState(e.data.error ?? 'The file cannot be drawn.');
        return;
      }
      try {
        const { show } = await import('./scene');
        if (gone || !at.current) return;
        down = show(at.current, e.data.meshes, land, place);
        setState('');
      } catch {
        setState('This browser cannot draw in 3D; the drawing above shows the size.');
      }
    };
    worker.onerror = () => setState('The STEP reader did not start.');
    void fetch(`/api/v1/files/${hash}`)
      .then((r) => (r.ok ? r.arrayBuffer() : Promise.reject(new Error())))
      .then((b) => worker.postMessage(new Uint8Array(b)))
      .catch(() => setState('The file could not be fetched.'));
    return () => {
      gone = true;
      worker.terminate();
      down?.();
    };
  }, [hash, land, place]);
  return (
    <figure>
      <div ref={at} className="h-96 rounded border border-line" role="img" aria-label={`${name} in space${land ? ', on its pads' : ''}`} />
      <figcaption className="mt-1 text-xs text-soft" role="status">
        {state || 'Turn with the mouse or the arrow keys; the wheel comes nearer.'}
      </figcaption>
    </figure>
  );
}
