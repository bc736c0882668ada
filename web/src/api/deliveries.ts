import { client, data, type Schemas } from './client';

const byID = (id: number) => ({ params: { path: { id } } });

/** What is asked of deliveries. */
export const askDelivery = {
  close: (id: number, partly: boolean) =>
    data(client.POST('/api/deliveries/{id}/close', { params: { path: { id }, query: { partly } } })),
  describe: (id: number, body: NonNullable<Schemas['DescribeDeliveryRequest']>) =>
    data(client.PATCH('/api/deliveries/{id}', { ...byID(id), body })),
  stop: (id: number) => data(client.POST('/api/deliveries/{id}/stop', byID(id))),
  resume: (id: number) => data(client.POST('/api/deliveries/{id}/resume', byID(id))),
  reopen: (id: number) => data(client.POST('/api/deliveries/{id}/reopen', byID(id))),
  /** Removes one that was not taken in to its end, at once. */
  remove: (id: number) => data(client.DELETE('/api/deliveries/{id}', byID(id))),
  /** Makes the plan that removes a closed one. */
  planRemoval: (id: number, title: string) =>
    data(client.POST('/api/deliveries/{id}/removal', { ...byID(id), body: { title } })),
};
