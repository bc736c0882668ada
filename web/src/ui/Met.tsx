import './Met.css';

/** Letters that turn the direction of what follows: a name could lie with them about its extension. They are shown as a sign. */
const turning = /[\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]/g;

/** A text from outside as it can be shown: of the same length, with a sign for each letter that turns the direction. */
export const plainly = (text: string) => text.replace(turning, '\u2370');

/**
 * Text with the parts underlined that met their counterparts. spans are in UTF-16 units, end exclusive, one after the
 * other; from is where the text begins in what they count.
 */
export function Met({ text, spans = [], from = 0 }: { text: string; spans?: number[][]; from?: number }) {
  const shown = plainly(text);
  const parts = [];
  let done = 0;
  for (const [start = 0, end = 0] of spans) {
    const [a, b] = [Math.max(start - from, done), Math.min(end - from, shown.length)];
    if (b <= a) continue;
    parts.push(
      shown.slice(done, a),
      <u className="met" key={a}>
        {shown.slice(a, b)}
      </u>,
    );
    done = b;
  }
  return (
    <bdi>
      {parts}
      {shown.slice(done)}
    </bdi>
  );
}
