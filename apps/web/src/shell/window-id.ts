/** Names this window, also over a reload: it must not meet itself. */
export function windowId(): string {
  const known = sessionStorage.getItem('euphonos.window');
  if (known) return known;
  const made = crypto.randomUUID();
  sessionStorage.setItem('euphonos.window', made);
  return made;
}
