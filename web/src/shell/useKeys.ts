import { useEffect, useRef } from "react";

/** What the keys of the whole page do. */
export interface KeyActions {
  stage: (digit: string) => void;
  room: (by: number) => void;
  palette: () => void;
  undo: () => void;
  redo: () => void;
  margin: () => void;
  rehearse: () => void;
  help: () => void;
  shelf: () => void;
}

/** Is the focus where letters are typed? */
function typing(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  const input = target.closest("input, textarea, [contenteditable]");
  if (input instanceof HTMLInputElement)
    return !["checkbox", "radio", "button", "file", "range"].includes(input.type);
  return input !== null;
}

/** Does the focused thing take Enter and the space bar itself? */
function takesEnter(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement && target.closest("button, a, select, summary, [role=combobox]") !== null
  );
}

/** Is a dialog or a list open, whose keys these are? */
function elsewhere(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement && target.closest("[role=dialog], [role=listbox], [role=menu]") !== null
  );
}

/** The keys of the whole page; letters only where nobody types. */
export function useKeys(actions: KeyActions): void {
  const now = useRef(actions);
  useEffect(() => {
    now.current = actions;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.defaultPrevented || elsewhere(event.target)) return;
      const key = event.key.toLowerCase();
      if ((event.ctrlKey || event.metaKey) && !event.getModifierState("AltGraph")) {
        if (key === "k") now.current.palette();
        else if (typing(event.target)) return;
        else if (key === "z" && event.shiftKey) now.current.redo();
        else if (key === "z") now.current.undo();
        else if (key === "y") now.current.redo();
        else return;
        event.preventDefault();
        return;
      }
      // AltGr counts as the character that it makes: [ and ] on many keyboards.
      const makes = event.getModifierState("AltGraph");
      if ((event.altKey && !makes) || typing(event.target)) return;
      if (/^[1-7]$/.test(key)) now.current.stage(key);
      else if (key === "[") now.current.room(-1);
      else if (key === "]") now.current.room(1);
      else if (key === "m") now.current.margin();
      else if (key === "r") now.current.rehearse();
      else if (key === "?") now.current.help();
      else if (key === "g") now.current.shelf();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}

/** A letter (or enter, escape, the space bar) that does something on one stage, where nobody types. */
export function useLetter(letter: string, action: (() => void) | undefined): void {
  const now = useRef(action);
  useEffect(() => {
    now.current = action;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const plain = !event.ctrlKey && !event.metaKey && !event.altKey && !event.defaultPrevented;
      if (!plain || event.key.toLowerCase() !== letter || typing(event.target) || elsewhere(event.target))
        return;
      if (!now.current || ((letter === "enter" || letter === " ") && takesEnter(event.target))) return;
      event.preventDefault();
      now.current();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [letter]);
}
