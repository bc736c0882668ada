import { type ReactNode, useState } from 'react';
import './DropArea.css';

interface Props {
  /** What is said while something is held over it. */
  says: string;
  off: boolean;
  onDrop: (transfer: DataTransfer) => void;
  children: ReactNode;
}

/** Takes what is dropped anywhere on a station. */
export function DropArea({ says, off, onDrop, children }: Props) {
  const [over, setOver] = useState(false);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping has its twin in the buttons
    // biome-ignore lint/a11y/noNoninteractiveElementInteractions: the same
    <div
      onDragOver={(e) => {
        e.preventDefault();
        setOver(!off);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        if (!off) onDrop(e.dataTransfer);
      }}
      style={{ display: 'contents' }}
    >
      {over && <div className="veil">{says}</div>}
      {children}
    </div>
  );
}
