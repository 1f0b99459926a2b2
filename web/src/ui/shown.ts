import { useEffect, useRef } from "react";

/**
 * What has opened is scrolled to where it can be read: into the window where it fits, else with its head at the top. The
 * place of `head` is what stays in sight.
 */
export function useShown<T extends HTMLElement>(open: boolean) {
  const head = useRef<T>(null);
  useEffect(() => {
    const row = head.current;
    if (!open || !row) return;
    const opened = row.nextElementSibling ?? row;
    const box = row.closest("main");
    if (!box || typeof row.scrollIntoView !== "function") return;
    const frame = box.getBoundingClientRect();
    const top = row.getBoundingClientRect().top;
    const bottom = opened.getBoundingClientRect().bottom;
    const hidden = bottom > frame.bottom || top < frame.top;
    if (!hidden) return;
    const fits = bottom - top <= frame.height;
    if (fits) opened.scrollIntoView({ block: "nearest" });
    else row.scrollIntoView({ block: "start" });
  }, [open]);
  return head;
}
