/** Has the browser keep something as a file. */
export function keepFile(content: Blob, name: string): void {
  const address = URL.createObjectURL(content);
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), 60_000);
}
