import { queryOptions } from '@tanstack/react-query';
import { client, csrfHeaders, data, type Schemas } from './client';

/** Which pictures a picture table is of: some, by their numbers, else a delivery's, else those on owners, of a category or of all. */
export interface ShotsOf {
  pictures?: number[];
  delivery?: number;
  category?: number;
}

export interface ShotsSpec extends Omit<ShotsOf, 'pictures'> {
  /** What stands for pictures by their numbers. */
  ticket?: string;
  columns: { column: string; header: string }[];
  side: number;
  format: 'xlsx' | 'csv' | 'ods';
  sheet?: string;
  cell?: string;
}

export const presetsQuery = queryOptions({
  queryKey: ['picture-presets'],
  queryFn: () => data(client.GET('/api/picture-presets')),
});

export const savePreset = (body: NonNullable<Schemas['SavePicturePresetRequest']>) =>
  data(client.POST('/api/picture-presets', { body }));

export const removePreset = (id: number) =>
  data(client.DELETE('/api/picture-presets/{id}', { params: { path: { id } } }));

/** Has a picture table made, written into a workbook where one is given. */
export async function makeShots(spec: ShotsSpec, book: File | null): Promise<Blob> {
  const response = await fetch(`/api/picture-tables?${new URLSearchParams({ spec: JSON.stringify(spec) })}`, {
    method: 'POST',
    headers: { ...csrfHeaders(), 'Content-Type': 'application/octet-stream' },
    body: book ?? undefined,
  });
  await refusing(response);
  return response.blob();
}

/** Throws what the server said where it refused. */
export async function refusing(response: Response) {
  if (response.ok) return;
  const error = await response.json().catch(() => undefined);
  await data(Promise.resolve({ error, response }));
}
