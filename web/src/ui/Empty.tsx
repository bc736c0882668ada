import type { ReactNode } from 'react';
import './Empty.css';

/** An empty board: what this is, and what to do next. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="empty">
      <h2>{title}</h2>
      <div>{children}</div>
    </div>
  );
}
