import { useCallback, useEffect, useRef, useState } from "react";

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
 * What is typed into a form, kept under a name until it is saved or thrown away: changing the page, or reading it anew,
 * loses nothing. The last one of the three forgets it, when it was saved or is not wanted.
 */
export function useDraft<T>(name: string, saved: T): [T, (next: T) => void, () => void] {
  const [typed, setTyped] = useState<T>(() => read<T>(name) ?? saved);
  const set = useCallback(
    (next: T) => {
      setTyped(next);
      keepDraft(name, JSON.stringify(next) === JSON.stringify(saved) ? undefined : next);
    },
    [name, saved],
  );
  const first = useRef(saved);
  const discard = useCallback(() => {
    keepDraft(name, undefined);
    setTyped(first.current);
  }, [name]);
  return [typed, set, discard];
}

/** Is there something typed for a thing that was not saved? */
export function useHasDraft(name: string): boolean {
  const [has, setHas] = useState(() => read(name) !== undefined);
  useEffect(() => {
    const look = () => setHas(read(name) !== undefined);
    look();
    window.addEventListener(CHANGED, look);
    return () => window.removeEventListener(CHANGED, look);
  }, [name]);
  return has;
}
