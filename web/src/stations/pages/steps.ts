import type { Guide } from '../../api/guides';

export const STEPS = ['items', 'next', 'title', 'sku', 'barcode', 'pictures', 'not'] as const;
export type Step = (typeof STEPS)[number];

/** Steps that stand on the listing; the others stand on an item's page. */
export const onListing = (step: Step) => step === 'items' || step === 'next';
/** Steps of which there are several on a page. */
export const isMany = (step: Step) => step === 'items' || step === 'pictures' || step === 'not';

export const selectorOf = (guide: Guide, step: Step): string => guide[step]?.selector ?? '';

export const withSelector = (guide: Guide, step: Step, selector: string): Guide => ({
  ...guide,
  [step]: { ...guide[step], selector: selector || undefined },
});

export const emptyGuide = (start: string): Guide => ({ form: 1, start: [start] });
