import { beforeEach } from "vitest";

// Days and clocks as one locale writes them, wherever the tests run.
if (typeof navigator !== "undefined")
  Object.defineProperty(navigator, "language", { value: "en-GB", configurable: true });

// What a page asks of a browser, and the stand-in of one has not: nothing has a size there, and nothing scrolls.
if (typeof Element !== "undefined") {
  Element.prototype.hasPointerCapture = () => false;
  Element.prototype.scrollIntoView = () => undefined;
  globalThis.ResizeObserver = class {
    observe() {}
    unobserve() {}
    disconnect() {}
  };
}

// What one test has typed is no draft of the next one.
beforeEach(() => {
  if (typeof localStorage !== "undefined") localStorage.clear();
});
