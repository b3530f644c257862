import { useQueryClient } from '@tanstack/react-query';
import { api, take, upload, type Schemas } from '../../api/client';
import { useAct } from '../../api/write';

export type Model = Schemas['Model'];
export type Row = Schemas['ModelRow'];
export type Kind = Schemas['ModelEdit']['kind'];
export type Delivery = Schemas['Delivery'];

export const kinds: Kind[] = ['symbol', 'land pattern', 'body'];

/** A change after which everything on the page is asked for anew. */
export function useDeed<In, Out>(fn: (x: In) => Promise<Out>, done?: (x: Out) => void) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: fn,
    onSuccess: (x: Out) => {
      void queries.invalidateQueries();
      done?.(x);
    },
  });
}

/** Uploads files and brings them in as one delivery. */
export async function deliver(files: File[], part?: string): Promise<Delivery> {
  const kept = [];
  for (const f of files) {
    const k = await upload(f);
    kept.push({ hash: k.hash, name: f.name });
  }
  return take(api.POST('/api/v1/deliveries', { body: { files: kept, part } }));
}

/** A number of parts in words. */
export const parts = (n: number) => (n === 1 ? '1 part' : `${n} parts`);
