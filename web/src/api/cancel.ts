import { useCallback, useRef } from "react";
import { RequestError } from "./client";

/** What was ended by whoever asked for it; `detail` says what has become of it. */
export function cancelled(detail: string): RequestError {
  return new RequestError({
    type: "about:blank",
    title: "Cancelled",
    status: 499,
    kind: "cancelled",
    detail,
  });
}

/** A request that can be ended: its signal, and the way to end it. */
export function useCancel(): { signal: () => AbortSignal; cancel: () => void } {
  const last = useRef<AbortController>(undefined);
  const signal = useCallback(() => {
    last.current = new AbortController();
    return last.current.signal;
  }, []);
  const cancel = useCallback(() => last.current?.abort(), []);
  return { signal, cancel };
}
