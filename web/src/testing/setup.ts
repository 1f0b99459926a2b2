import { beforeEach } from "vitest";

// What one test has typed is no draft of the next one.
beforeEach(() => {
  if (typeof localStorage !== "undefined") localStorage.clear();
});
