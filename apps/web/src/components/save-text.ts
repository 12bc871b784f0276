/** The browser reads it within this. */
const KEPT_MS = 10_000;

/** Hands a text to the user as a file. */
export function saveText(fileName: string, text: string, type: string): void {
  const url = URL.createObjectURL(new Blob([text], { type }));
  Object.assign(document.createElement('a'), { href: url, download: fileName }).click();
  setTimeout(() => URL.revokeObjectURL(url), KEPT_MS);
}
