/** Returns what a skip link does: the focus goes to the part of the page with the id. */
export function goTo(id: string): () => void {
  return () => document.getElementById(id)?.focus();
}
