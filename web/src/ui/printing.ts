import { useSyncExternalStore } from "react";
import { flushSync } from "react-dom";

/** Is the page being put on paper? What draws only what is seen draws everything then. */
export function usePrinting(): boolean {
  return useSyncExternalStore(subscribe, isPrinting);
}

let printing = false;
const isPrinting = () => printing;

function subscribe(changed: () => void): () => void {
  const set = (next: boolean) => () => {
    printing = next;
    // The paper is drawn as soon as the event is over.
    flushSync(changed);
  };
  const [begin, end] = [set(true), set(false)];
  window.addEventListener("beforeprint", begin);
  window.addEventListener("afterprint", end);
  return () => {
    window.removeEventListener("beforeprint", begin);
    window.removeEventListener("afterprint", end);
  };
}
