/** Hands a finished file to the browser's downloads. */
export function saveFile(name: string, content: Blob): void {
  const url = URL.createObjectURL(content);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  // The download has its own hold on the content once it has begun.
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
