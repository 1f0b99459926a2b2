import { defineConfig } from "@playwright/test";

/** Debian's Chromium, one worker a core; every test has a server and a database of its own. */
export default defineConfig({
  testDir: "tests",
  timeout: 180_000,
  expect: { timeout: 15_000 },
  fullyParallel: true,
  workers: 2,
  // A starved machine can be too slow for the rehearsal clock at 10 times real time: tried once more, and said.
  retries: 1,
  reporter: [["list"]],
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: "light",
    locale: "en-GB",
    trace: "retain-on-failure",
    launchOptions: { executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] },
  },
});
