import { useState } from "react";

const KEPT = "kestrel-margin-width";
const LEAST = 240;
const MOST = 640;
const USUAL = 292;
const STEP = 24;

const within = (width: number) => Math.round(Math.min(MOST, Math.max(LEAST, width)));

function kept(): number {
  const width = Number(localStorage.getItem(KEPT) ?? USUAL);
  return Number.isFinite(width) ? within(width) : USUAL;
}

/** How wide the margin is: the user's, kept by this browser; drawn with the mouse or a finger, or by arrow keys. */
export function useMarginWidth() {
  const [width, setWidth] = useState(kept);
  const change = (next: number) => {
    setWidth(within(next));
    localStorage.setItem(KEPT, String(within(next)));
  };
  const handle = {
    role: "separator",
    tabIndex: 0,
    "aria-orientation": "vertical",
    "aria-label": "Width of the margin",
    "aria-valuenow": width,
    "aria-valuemin": LEAST,
    "aria-valuemax": MOST,
    onPointerDown: (event: React.PointerEvent<HTMLElement>) =>
      event.currentTarget.setPointerCapture(event.pointerId),
    onPointerMove: (event: React.PointerEvent<HTMLElement>) => {
      if (event.buttons === 1) change(window.innerWidth - event.clientX);
    },
    onKeyDown: (event: React.KeyboardEvent) => {
      if (event.key === "ArrowLeft") change(width + STEP);
      if (event.key === "ArrowRight") change(width - STEP);
    },
  } as const;
  return { width, handle };
}
