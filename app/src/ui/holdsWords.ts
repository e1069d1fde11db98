/** Whether a text contains all words of a query, in any order. */
export function holdsWords(text: string, search: string): boolean {
  const lower = text.toLowerCase();
  return search
    .trim()
    .toLowerCase()
    .split(/\s+/)
    .every((word) => lower.includes(word));
}
