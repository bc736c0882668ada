import type { Schemas } from './client';

/** Reads an answer of JSON lines as they come. What the server refuses is an error that says why. */
export async function* readLines<T>(answer: Response): AsyncGenerator<T> {
  if (!answer.ok || !answer.body) {
    const problem = (await answer.json()) as Schemas['ProblemDetails'];
    throw new Error(problem.detail);
  }
  const text = new TextDecoderStream() as ReadableWritablePair<string, Uint8Array>;
  const reader = answer.body.pipeThrough(text).getReader();
  let rest = '';
  for (;;) {
    const { value, done } = await reader.read();
    if (done) return;
    const parts = (rest + value).split('\n');
    rest = parts.pop() ?? '';
    for (const part of parts) if (part) yield JSON.parse(part) as T;
  }
}
