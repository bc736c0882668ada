import './Met.css';
/**
 * Text with the parts underlined that met their counterparts. spans are in UTF-16 units, end exclusive, one after the
 * other; from is where the text begins in what they count.
 */
export function Met({ text, spans = [], from = 0 }: { text: string; spans?: number[][]; from?: number }) {
  const parts = [];
  let done = 0;
  for (const [start = 0, end = 0] of spans) {
    const [a, b] = [Math.max(start - from, done), Math.min(end - from, text.length)];
    if (b <= a) continue;
    parts.push(
      text.slice(done, a),
      <u className="met" key={a}>
        {text.slice(a, b)}
      </u>,
    );
    done = b;
  }
  return (
    <>
      {parts}
      {text.slice(done)}
    </>
  );
}
