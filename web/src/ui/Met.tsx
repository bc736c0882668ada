/** Text with the part underlined that met its counterpart. span is in UTF-16 units, end exclusive. */
export function Met({ text, span }: { text: string; span?: number[] }) {
  const [from = 0, to = 0] = span ?? [];
  if (to <= from) return <>{text}</>;
  return (
    <>
      {text.slice(0, from)}
      <u className="met">{text.slice(from, to)}</u>
      {text.slice(to)}
    </>
  );
}
