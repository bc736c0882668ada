import type { ReactNode } from 'react';

/** What each board of a source is given: the rail and the top that stand around it, and which line is in focus. */
export interface Parts {
  rail: ReactNode;
  top: ReactNode;
  at: number | undefined;
  onAt: (id: number | undefined) => void;
  /** Shows a visit that was asked for. */
  onVisit: (visit: number) => void;
}
