/** Gives a file to the person in front of the page. */
export function saveFile(name: string, content: string | Uint8Array): void {
  const url = URL.createObjectURL(new Blob([content as BlobPart]));
  const link = Object.assign(document.createElement('a'), { href: url, download: name });
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 1000);
}
