import type { Line } from '../../api/client';
import { ask } from '../../api/queries';
import { complain } from '../../ui/complain';

/** Downloads the pictures of lines as one archive; the server makes it while it is sent. */
export async function downloadZip(delivery: number, lines: Line[]) {
  if (!lines.length) return;
  try {
    const { ticket } = await ask.zip(
      delivery,
      lines.map((l) => l.id),
    );
    window.location.assign(`/api/downloads/${ticket}`);
  } catch (error) {
    complain(error);
  }
}
