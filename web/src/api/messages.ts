import { queryOptions } from '@tanstack/react-query';
import { client, data, type Schemas } from './client';

export type MailWish = Schemas['Wish'];
export type MailServer = Schemas['MailServer'];
export type Outgoing = Schemas['Outgoing'];
export type Webhook = Schemas['Webhook'];

export const mailTouched = [['mail']];

export const mailQuery = queryOptions({
  queryKey: ['mail', 'wish'],
  queryFn: () => data(client.GET('/api/session/mail')),
});
export const serverQuery = queryOptions({
  queryKey: ['mail', 'server'],
  queryFn: () => data(client.GET('/api/mail-server')),
});
export const webhooksQuery = queryOptions({
  queryKey: ['mail', 'webhooks'],
  queryFn: () => data(client.GET('/api/webhooks', { params: { query: {} } })),
});

export const askMail = {
  wish: ({ address, tells }: MailWish) => data(client.PUT('/api/session/mail', { body: { address, tells } })),
  server: (body: MailServer) => data(client.PUT('/api/mail-server', { body })),
  attempt: () => data(client.POST('/api/mail-server/try')),
  addWebhook: (body: Webhook) => data(client.POST('/api/webhooks', { body })),
  removeWebhook: (id: number) => data(client.DELETE('/api/webhooks/{id}', { params: { path: { id } } })),
};
