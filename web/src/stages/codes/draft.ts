import { useState } from "react";

/** A text that stays with its place for as long as the browser's tab is open, whatever happens to the page. */
export function useDraft(place: string): [string, (text: string) => void] {
  const key = `kestrel-draft ${place}`;
  const [text, setText] = useState(() => sessionStorage.getItem(key) ?? "");
  const keep = (next: string) => {
    setText(next);
    try {
      if (next) sessionStorage.setItem(key, next);
      else sessionStorage.removeItem(key);
    } catch {
      // The text is too long for the tab's storage: it still stands in the box.
    }
  };
  return [text, keep];
}
