/** The text of a chosen file, or the sentence why it is none. */
export type ReadFile = { text: string } | { trouble: string };

/** Reads a file as text: too large a file and one that is no text are refused with what to do instead. */
export async function readText(
  file: File,
  limit: { bytes: number; tooLarge: string; notText: string },
): Promise<ReadFile> {
  if (file.size > limit.bytes) return { trouble: `${file.name} ${limit.tooLarge}` };
  try {
    return { text: new TextDecoder("utf-8", { fatal: true }).decode(await file.arrayBuffer()) };
  } catch {
    return { trouble: `${file.name} is not text. ${limit.notText}` };
  }
}
