import { named, t } from '../words/words';
import './Grade.css';

/** Drawn shapes of one size, so that no font decides what a grade looks like. */
const shapes: Record<string, React.ReactNode> = {
  sure: <circle cx="7" cy="7" r="5.5" fill="currentColor" />,
  likely: (
    <>
      <circle cx="7" cy="7" r="5" fill="none" stroke="currentColor" strokeWidth="1.5" />
      <path d="M7 2a5 5 0 0 0 0 10z" fill="currentColor" />
    </>
  ),
  contested: <path d="M7 1.5 12.5 7 7 12.5 1.5 7z" fill="none" stroke="currentColor" strokeWidth="1.5" />,
  unclaimed: <circle cx="7" cy="7" r="5" fill="none" stroke="currentColor" strokeWidth="1.5" />,
  ignored: <path d="M3 7h8" stroke="currentColor" strokeWidth="1.5" />,
};

export const Shape = ({ grade }: { grade: string }) => (
  <svg className="shape" width="14" height="14" viewBox="0 0 14 14" aria-hidden focusable="false">
    {shapes[grade]}
  </svg>
);

/** A grade by its shape and, for screen readers, its word. */
export function Grade({ grade, word = false, checked }: { grade: string; word?: boolean; checked?: boolean }) {
  return (
    <span className={`grade ${grade}`}>
      <Shape grade={grade} />
      <span className={word ? undefined : 'unseen'}>
        {named(`grade.${grade}`)}
        {checked && `, ${t('kind.checked')}`}
      </span>
      {checked && (
        <svg className="tick" width="10" height="10" viewBox="0 0 10 10" aria-hidden focusable="false">
          <path d="M1.5 5.5 4 8l4.5-6" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      )}
    </span>
  );
}
