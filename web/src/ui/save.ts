/** Saves bytes as a file of a name. */
export function save(bytes: Blob, name: string) {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(bytes);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
