import type { Ref } from 'react';
import './FilterField.css';

interface Props {
  label: string;
  value: string;
  onChange: (text: string | undefined) => void;
  ref: Ref<HTMLInputElement>;
}

/** What a board's lines are filtered by; Enter and Escape go back to the board. */
export function FilterField({ label, value, onChange, ref }: Props) {
  return (
    <div className="filterfield">
      <input
        ref={ref}
        aria-label={label}
        placeholder={label}
        value={value}
        onChange={(e) => onChange(e.currentTarget.value || undefined)}
        onKeyDown={(e) => {
          if (e.key === 'Enter' || e.key === 'Escape') document.getElementById('board')?.focus();
        }}
      />
      <kbd aria-hidden>/</kbd>
    </div>
  );
}
