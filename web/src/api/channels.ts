import { queryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { client, csrfHeaders, data, Refusal, type Schemas } from './client';

export type Channel = Schemas['NamedChannel'];
export type Says = Schemas['Channel'];
export type Size = Schemas['Rendition'];
export type List = Schemas['List'];
export type ListColumn = Schemas['Column'];
export type ChannelFile = Schemas['ChannelFile'];
export type ThereFile = Schemas['There'];

const at = (id: number) => ({ params: { path: { id } } });
const PAGE = 200;

export const channelTouched = [['channels'], ['trail'], ['jobs']];

/** Whether what would go is being looked at. */
export const isLooking = (c: Channel) => c.busy === true;

export const channelsQuery = queryOptions({
  queryKey: ['channels'],
  queryFn: async ({ signal }) => {
    const all: Channel[] = [];
    for (;;) {
      const last = all.at(-1);
      const query = { afterName: last?.name, after: last?.id };
      const more = await data(client.GET('/api/channels', { params: { query }, signal }));
      all.push(...more);
      if (more.length < PAGE) return all;
    }
  },
});

/** What stands in a channel, as far as it is here. */
export const useStanding = (id: number) =>
  useInfiniteQuery({
    queryKey: ['channels', id, 'files'],
    queryFn: ({ pageParam, signal }) =>
      data(
        client.GET('/api/channels/{id}/files', {
          params: { path: { id }, query: { after: pageParam, most: PAGE } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last: ChannelFile[]) => (last.length < PAGE ? undefined : last.at(-1)?.id),
  });

/** A channel's folder beside what should be there, as far as it is here. */
export const useThere = (id: number, what?: ThereFile['what']) =>
  useInfiniteQuery({
    queryKey: ['channels', id, 'there', what],
    queryFn: ({ pageParam, signal }) =>
      data(
        client.GET('/api/channels/{id}/there', {
          params: { path: { id }, query: { what, after: pageParam, most: PAGE } },
          signal,
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (last) => (last.files.length < PAGE ? undefined : last.files.at(-1)?.path),
  });

export const houseQuery = queryOptions({ queryKey: ['house'], queryFn: () => data(client.GET('/api/house')) });

export const savedListsQuery = queryOptions({
  queryKey: ['saved-lists'],
  queryFn: ({ signal }) => data(client.GET('/api/saved-lists', { signal })),
});

export const askChannel = {
  saveList: (body: NonNullable<Schemas['SaveListRequest']>) => data(client.POST('/api/saved-lists', { body })),
  removeList: (id: number) => data(client.DELETE('/api/saved-lists/{id}', at(id))),
  add: (body: Schemas['NewChannel']) => data(client.POST('/api/channels', { body })),
  set: (id: number, body: Schemas['NewChannel']) => data(client.PUT('/api/channels/{id}', { ...at(id), body })),
  remove: (id: number) => data(client.DELETE('/api/channels/{id}', at(id))),
  look: (id: number) => data(client.POST('/api/channels/{id}/plan', at(id))),
  stop: (id: number) => data(client.DELETE('/api/channels/{id}/plan', at(id))),
  schedule: (id: number, body: Schemas['Schedule']) =>
    data(client.PUT('/api/channels/{id}/schedule', { ...at(id), body })),
  openAddresses: (id: number) => data(client.POST('/api/channels/{id}/addresses', at(id))),
  closeAddresses: (id: number) => data(client.DELETE('/api/channels/{id}/addresses', at(id))),
  setHouse: (body: Schemas['House']) => data(client.PUT('/api/house', { body })),
  /** The list that an example of a shop's table would be. */
  example: async (file: File): Promise<List> => {
    const asked = await fetch(`/api/channel-lists?name=${encodeURIComponent(file.name)}`, {
      method: 'POST',
      headers: csrfHeaders(),
      body: file,
    });
    const told = await asked.json();
    if (!asked.ok) throw new Refusal(told.detail ?? told.title, asked.status);
    return told;
  },
};
