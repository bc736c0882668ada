import { lazy } from 'react';
import { withWords } from '../../words/words';

/** What is shown beside the lines, or instead of them; in one piece, as the first screen is small without. */
const beside = () => withWords('series', import('./beside'));

export const Coded = lazy(() => beside().then((m) => ({ default: m.Coded })));
export const Compare = lazy(() => withWords('compare', beside()).then((m) => ({ default: m.Compare })));
export const OwnerBoard = lazy(() => beside().then((m) => ({ default: m.OwnerBoard })));
export const SeriesBoard = lazy(() => beside().then((m) => ({ default: m.SeriesBoard })));
