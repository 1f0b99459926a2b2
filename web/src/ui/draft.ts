import { useCallback, useEffect, useState } from "react";

const PREFIX = "kestrel-draft:";

/** Tells whoever marks drafts that one has come or gone. */
const CHANGED = "kestrel-drafts";

function read<T>(name: string): T | undefined {
  const text = localStorage.getItem(PREFIX + name);
  if (text === null) return undefined;
  try {
    return JSON.parse(text) as T;
  } catch {
    return undefined;
  }
}

/** Keeps what was typed for a thing; nothing where it is as it was saved. */
export function keepDraft(name: string, value: unknown): void {
  try {
    if (value === undefined) localStorage.removeItem(PREFIX + name);
    else localStorage.setItem(PREFIX + name, JSON.stringify(value));
  } catch {
    // Where there is no room for it, it stays on the screen only.
  }
  window.dispatchEvent(new CustomEvent(CHANGED, { detail: name }));
}

/** What was typed for a thing and never saved. */
export function draftOf<T>(name: string): T | undefined {
  return read<T>(name);
}

/**
 * What is typed, as [useState] with a name: kept under it until it is as saved again, or is forgotten, so that changing the
 * page, or reading it anew, loses nothing. The parts of a form share the beginning of their names, so that one call forgets
 * them all.
 */
export function useTyped<T>(name: string, saved: T): [T, (next: T) => void] {
  const [state, setState] = useState(() => ({ name, value: read<T>(name) ?? saved }));
  // Another thing has other texts.
  const now = state.name === name ? state : { name, value: read<T>(name) ?? saved };
  if (now !== state) setState(now);
  const set = useCallback(
    (value: T) => {
      setState({ name, value });
      keepDraft(name, JSON.stringify(value) === JSON.stringify(saved) ? undefined : value);
    },
    [name, saved],
  );
  return [now.value, set];
}

const all = () => Object.keys(localStorage).filter((key) => key.startsWith(PREFIX));

/** Forgets what was typed under every name that begins so: it was saved, or thrown away. */
export function forget(beginning: string): void {
  for (const key of all()) {
    if (key.startsWith(PREFIX + beginning)) keepDraft(key.slice(PREFIX.length), undefined);
  }
}

/** Is something typed under a name that begins as one of these? */
export function useIsTyped(...beginnings: string[]): boolean {
  const joined = beginnings.join("\n");
  const look = useCallback(
    () => all().some((key) => joined.split("\n").some((beginning) => key.startsWith(PREFIX + beginning))),
    [joined],
  );
  const [is, setIs] = useState(look);
  useEffect(() => {
    const again = () => setIs(look());
    again();
    window.addEventListener(CHANGED, again);
    return () => window.removeEventListener(CHANGED, again);
  }, [look]);
  return is;
}
