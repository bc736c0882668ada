import './Grade.css';

const shapes: Record<string, string> = {
  sure: '●',
  likely: '◐',
  contested: '◇',
  unclaimed: '○',
  ignored: '–',
};

/** A grade by its shape and, for those who listen, its word. */
export function Grade({ grade, word = false }: { grade: string; word?: boolean }) {
  return (
    <span className={`grade ${grade}`}>
      <span aria-hidden>{shapes[grade]}</span>
      <span className={word ? undefined : 'unseen'}> {grade}</span>
    </span>
  );
}
