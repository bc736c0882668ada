const units = ['B', 'kB', 'MB', 'GB', 'TB'];

export function bytes(n: number): string {
  let i = 0;
  while (n >= 1000 && i < units.length - 1) {
    n /= 1000;
    i++;
  }
  return `${i === 0 || n >= 100 ? Math.round(n) : n.toFixed(1)} ${units[i]}`;
}

const counts = new Intl.NumberFormat('en-GB');

/** A count with thousands set apart by a thin space, as long rows of digits are misread. */
export const count = (n: number) => counts.format(n).replaceAll(',', '\u2009');

export const plural = (n: number, one: string, many = `${one}s`) => `${count(n)} ${n === 1 ? one : many}`;

const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });

export function when(iso: string): string {
  const date = new Date(iso);
  return date.toDateString() === new Date().toDateString()
    ? `today, ${clock.format(date)}`
    : `${day.format(date)}, ${clock.format(date)}`;
}

export const baseName = (path: string) => path.slice(path.lastIndexOf('/') + 1);
