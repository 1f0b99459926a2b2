/** All that a form still lacks, in one sentence; none where nothing does. */
export function missing(parts: readonly (readonly [string, boolean])[]): string | undefined {
  const lacks = parts.filter(([, there]) => !there).map(([what]) => what);
  if (lacks.length === 0) return undefined;
  const last = lacks[lacks.length - 1] ?? "";
  const list = lacks.length === 1 ? last : `${lacks.slice(0, -1).join(", ")} and ${last}`;
  return `Still missing: ${list}.`;
}
