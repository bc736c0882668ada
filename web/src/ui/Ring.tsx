/** How far something is, as a ring. */
export function Ring({ percent }: { percent: number }) {
  const round = 2 * Math.PI * 9;
  return (
    <svg width="24" height="24" viewBox="0 0 24 24" aria-hidden focusable="false">
      <circle cx="12" cy="12" r="9" fill="none" stroke="var(--line)" strokeWidth="5" />
      <circle
        cx="12"
        cy="12"
        r="9"
        fill="none"
        stroke="var(--amber)"
        strokeWidth="5"
        strokeDasharray={`${(round * percent) / 100} ${round}`}
        transform="rotate(-90 12 12)"
      />
    </svg>
  );
}
