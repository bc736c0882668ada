import { assetRenderer } from './asset';
import { channelRenderer } from './channel';
import { deliveryRenderer } from './delivery';
import { ownerRenderer } from './owner';
import { picturesRenderer } from './pictures';
import { ownerName, type Renderer } from './subject';
import { wordingRenderer } from './wording';

/** One renderer a subject. */
const renderers: Record<string, Renderer> = {
  pictures: picturesRenderer,
  owner: ownerRenderer,
  wording: wordingRenderer,
  asset: assetRenderer,
  delivery: deliveryRenderer,
  channel: channelRenderer,
  channel_list: channelRenderer,
};

/** What shows a subject that these screens do not know: its fields as they are kept. */
const plain: Renderer = {
  name: (change, touched) => ownerName(change.id, touched),
  Side: ({ change, side }) => <span className="mono clip">{JSON.stringify(change[side])}</span>,
  text: (change, side) => JSON.stringify(change[side]),
  Glass: ({ change }) => <pre className="mono">{JSON.stringify([change.before, change.after], null, 1)}</pre>,
};

export const rendererOf = (subject: string): Renderer => renderers[subject] ?? plain;
