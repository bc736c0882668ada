export { Coded } from '../series/Coded';
export { SeriesBoard } from '../series/SeriesBoard';
export { Compare } from './Compare';
export { OwnerBoard } from './OwnerBoard';
