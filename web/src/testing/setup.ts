import { beforeEach } from "vitest";

// Days and clocks as one locale writes them, wherever the tests run.
if (typeof navigator !== "undefined")
  Object.defineProperty(navigator, "language", { value: "en-GB", configurable: true });

// What one test has typed is no draft of the next one.
beforeEach(() => {
  if (typeof localStorage !== "undefined") localStorage.clear();
});
