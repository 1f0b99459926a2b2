/** Every word has to be there, in any order; what has one at the beginning of a word comes first. */
export function match(value: string, search: string): number {
  const text = value.split(" #")[0]?.toLowerCase() ?? "";
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.every((word) => text.includes(word))) return 0;
  return words.some((word) => ` ${text}`.includes(` ${word}`)) ? 1 : 0.5;
}
