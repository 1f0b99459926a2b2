import type { Page } from "@playwright/test";
import { execFile, spawn } from "node:child_process";
import { resolve } from "node:path";
import { promisify } from "node:util";
import { accessible, expect, opened, room, test } from "./server";

const run = promisify(execFile);
const BINARY =
  process.env["KESTREL_BINARY"] ?? resolve(import.meta.dirname, "../../target/debug/kestrel-dune");

async function handover(page: Page, view?: string): Promise<void> {
  await page.keyboard.press("7");
  await expect(page.getByRole("heading", { name: "Handover", exact: true })).toBeVisible();
  if (view) await page.getByRole("tab", { name: view }).click();
}

/** The time of the projector that plans wait for. */
const WARM = /Projector.*power on → takes commands/;

test("laps by the keyboard alone: rehearsed ones cover nothing, those of the house are taken over and undone", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await handover(page);
  await page.getByRole("button", { name: WARM }).click();
  await page.getByRole("combobox", { name: "Pace of the rehearsal room" }).click();
  await page.getByRole("option", { name: "20 × faster" }).click();
  await page.getByRole("heading", { name: "Handover", exact: true }).click();
  for (let lap = 1; lap <= 2; lap++) {
    await page.keyboard.press("Space");
    await expect(page.getByTestId("rehearsed-state")).toBeVisible();
    await page.keyboard.press("Space");
    await expect(page.getByTestId("readings-say")).toContainText(`${lap} reading`);
  }
  await expect(page.getByTestId("readings-say")).toContainText("if these had been taken in the house");
  await expect(page.getByTestId("would-change")).toBeVisible();
  await expect(page.getByRole("button", { name: /over$/ })).toHaveCount(0);
  await accessible(page);

  // The same in the house, by hand: the interval is taken over, for this device alone, and one undo takes it back.
  // (A lap that begins before the lamp has cooled counts as hot, so another time is taken here.)
  await page.getByRole("button", { name: /Projector.*input chosen → shows it/ }).click();
  await page.getByRole("button", { name: "In the house" }).click();
  await page.getByRole("heading", { name: "Handover", exact: true }).click();
  for (let lap = 1; lap <= 2; lap++) {
    await page.keyboard.press("Space");
    await expect(page.getByRole("button", { name: "Stop Space" })).toBeVisible();
    await page.keyboard.press("Space");
    await expect(page.getByTestId("readings-say")).toContainText(`${lap} reading`);
  }
  const take = page.getByRole("button", { name: /^Take .* over$/ });
  await take.click();
  await expect(page.getByText("is in use, on Projector alone")).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(page.getByText("for Projector alone; its model stays as it is")).toBeVisible();

  // A reading that went wrong is struck with a reason, and still counts below the line.
  await page.getByText("2 readings, one by one").click();
  await page.getByRole("button", { name: "Strike …" }).first().click();
  await page.getByRole("textbox", { name: "Why it is struck" }).fill("the door was open");
  await page.getByRole("button", { name: "Strike", exact: true }).click();
  await expect(page.getByText("struck: the door was open")).toBeVisible();
  await expect(page.getByTestId("readings-say")).toContainText("1 of them left out");
});

test("the gap finder: bursts, counts, a pause", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await handover(page);
  const finder = page.getByRole("region", { name: "Gap finder" });
  await finder.getByRole("combobox", { name: "Device of the gap finder" }).click();
  await page.getByRole("option", { name: /^Receiver/ }).click();
  await finder.getByRole("button", { name: "Find its shortest pause" }).click();
  await finder.getByRole("button", { name: "In the house" }).click();
  // A device that follows 250 ms and no less, counted by hand.
  for (let burst = 0; burst < 12; burst++) {
    if (await finder.getByTestId("gap-found").isVisible()) break;
    const said = (await finder.getByTestId("gap-next").textContent()) ?? "";
    const [, presses = "0", pause = "0"] = /(\d+) presses, (\d+) ms/.exec(said) ?? [];
    await finder.getByRole("button", { name: "It was sent; count" }).click();
    const seen = Number(pause) >= 250 ? presses : String(Number(presses) - 2);
    await finder
      .getByRole("group", { name: "How many were seen" })
      .getByRole("button", { name: seen, exact: true })
      .click();
    await expect(finder.getByText("What was lost")).toBeVisible();
    await expect(async () => {
      const now =
        (await finder.getByTestId("gap-next").or(finder.getByTestId("gap-found")).textContent()) ?? "";
      expect(
        now === said && !(await finder.getByRole("button", { name: "It was sent; count" }).isVisible()),
      ).toBe(false);
    }).toPass();
    await page.waitForLoadState("networkidle").catch(() => undefined);
    await page.waitForTimeout(250);
  }
  await expect(finder.getByTestId("gap-found")).toContainText("250 ms was the shortest pause");
  await finder.getByRole("button", { name: "Take 320 ms over" }).click();
  await expect(finder.getByText(/waits 0\.3 s after a command, 3 clean bursts/)).toBeVisible();
});

test("the list of tests: a round, a pass, a failure with its causes, and what an edit makes stale", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await handover(page, "Tests");
  await expect(page.getByTestId("round")).toContainText("no shorter round exists");
  await page.getByTestId("round").click();
  await expect(
    page.getByRole("list", { name: "Switches of the round" }).getByRole("listitem").first(),
  ).toBeVisible();
  for (const state of ["failed", "stale", "rehearsed"])
    await expect(page.getByRole("table", { name: "Tests" })).toContainText(state);
  await accessible(page);
  await page.getByRole("button", { name: "Off → Games", exact: true }).click();
  const one = page.getByRole("region", { name: "Off → Games" });
  await one.getByRole("button", { name: "Try it in the rehearsal room" }).click();
  await expect(one.getByText("rehearsed", { exact: true })).toBeVisible({ timeout: 30_000 });
  await one.getByRole("button", { name: "Passed" }).click();
  await expect(page.getByTestId("tests-sum")).toContainText("tests are done");
  await page.getByRole("button", { name: "Back to the list" }).click();
  await page.getByRole("button", { name: /^All/ }).click();
  const row = page.getByRole("row").filter({ hasText: "Off → Games" }).first();
  await expect(row).toContainText("passed");
  // What failed asks what was seen, and offers where to look.
  await page.getByRole("button", { name: "Receiver ▸ Volume up", exact: true }).click();
  await page.getByRole("button", { name: "Failed …" }).click();
  await page.getByRole("textbox", { name: "What was seen instead" }).fill("It got softer.");
  await page.getByRole("button", { name: "Write it down" }).click();
  await page.getByRole("button", { name: "Back to the list" }).click();
  await page.getByRole("button", { name: "Receiver ▸ Volume up", exact: true }).click();
  await expect(page.getByText("Look at this first")).toBeVisible();
});

test("papers and a handover: kept under a number, compared in sentences, on paper with page numbers", async ({
  page,
  kestrel,
}, info) => {
  await opened(page, kestrel);
  await handover(page, "Papers");
  await expect(page.getByText("Handover 1", { exact: true })).toBeVisible();
  await page.getByRole("textbox", { name: "What is said with the handover" }).fill("First part");
  await page.getByRole("button", { name: "Hand over" }).click();
  await expect(page.getByText("Handover 2", { exact: true })).toBeVisible({ timeout: 60_000 });
  await accessible(page);
  // An edit later, today stands against it in a sentence.
  await page.getByRole("textbox", { name: "Address of the machine that stays" }).fill("192.0.2.40:7311");
  await page
    .getByRole("region", { name: "Papers" })
    .getByRole("button", { name: "Save", exact: true })
    .click();
  await page.getByRole("button", { name: "Today against it" }).first().click();
  await expect(page.getByRole("list", { name: "Today against handover 2" })).toContainText("192.0.2.40:7311");
  for (const paper of ["record", "client", "orders"]) {
    const other = await page.context().newPage();
    await other.goto(
      `${kestrel.url}/api/houses/6b640000-0000-7000-8000-000000000001/papers/${paper}?handover=2`,
    );
    const path = info.outputPath(`${paper}.pdf`);
    await other.pdf({ path, preferCSSPageSize: true });
    const { stdout } = await run("pdftotext", ["-layout", path, "-"]);
    expect(stdout).toContain("page 1 of ");
    expect(stdout).toContain("handover 2");
    expect(stdout).toMatch(
      paper === "client" ? /To start/ : paper === "record" ? /Switch matrix/ : /order list/,
    );
    await other.close();
  }
});

test("the logbook: a visit, filters, and the house as it was", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await handover(page, "Logbook");
  await page.getByRole("textbox", { name: "What happened" }).fill("Second visit, projector hung");
  await page.getByRole("textbox", { name: "Minutes" }).fill("95");
  await page.getByRole("button", { name: "Write it down" }).click();
  const lines = page.getByRole("list", { name: "Lines of the logbook" });
  await expect(lines).toContainText("Second visit, projector hung");
  await handover(page, "Papers");
  await page.getByRole("textbox", { name: "Address of the machine that stays" }).fill("192.0.2.40:7311");
  await page
    .getByRole("region", { name: "Papers" })
    .getByRole("button", { name: "Save", exact: true })
    .click();
  await page.getByRole("textbox", { name: "Address of the machine that stays" }).fill("192.0.2.41:7311");
  await page
    .getByRole("region", { name: "Papers" })
    .getByRole("button", { name: "Save", exact: true })
    .click();
  await handover(page, "Logbook");
  await page.getByRole("combobox", { name: "Kind of line" }).selectOption("edit");
  await expect(lines.getByRole("listitem")).toHaveCount(2);
  await lines.getByRole("button", { name: "As it was" }).last().click();
  await expect(lines).toContainText("192.0.2.41:7311");
  await page.getByRole("button", { name: "Put the house back as it was …" }).click();
  await page.getByRole("button", { name: "Put the house back", exact: true }).click();
  await expect(lines).toContainText("Today it is as it was then.");
  await accessible(page);
});

test("a service call: picture but no sound since the power cut", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await handover(page, "Service call");
  const says = page.getByRole("region", { name: "What the client says" });
  await says
    .getByRole("row", { name: /^Picture/ })
    .getByRole("button", { name: "as it should be" })
    .click();
  await says
    .getByRole("row", { name: /^Sound/ })
    .getByRole("button", { name: "not" })
    .click();
  await says.getByRole("combobox", { name: "After what" }).selectOption("power-cut");
  const causes = page.getByRole("list", { name: "Causes" });
  await expect(causes.getByRole("listitem").first()).toContainText(/Amplifier|Receiver/);
  const question = await page.getByTestId("next-question").textContent();
  await says.getByRole("button", { name: "No", exact: true }).click();
  await expect(says.getByRole("list", { name: "Answers" })).toContainText(question ?? "?");
  await accessible(page);
  await page.getByRole("combobox", { name: "Cause", exact: true }).selectOption({ index: 1 });
  await page
    .getByRole("form", { name: "What it was" })
    .getByRole("button", { name: "Write it down" })
    .click();
  await page.getByRole("tab", { name: "Logbook" }).click();
  await expect(page.getByRole("list", { name: "Lines of the logbook" })).toContainText("no sound");
});

test("on a tablet over the network: a password, big keys, results that wait while the server is away", async ({
  page,
  kestrel,
}) => {
  const url = kestrel.database;
  const set = spawn(BINARY, ["password"], { env: { ...process.env, KESTREL_DATABASE_URL: url } });
  set.stdin.end("a sentence of the tide\n");
  await new Promise((done) => set.once("exit", done));
  await kestrel.listen();
  await page.setViewportSize({ width: 390, height: 844 });
  const path =
    "/houses/6b640000-0000-7000-8000-000000000001/rooms/6b640000-0001-7000-8000-000000000001/handover?show=tests";
  await page.goto(`${kestrel.network}${path}`);
  // Signed out, nothing is reachable.
  const bare = await page.request.get(`${kestrel.network}/api/houses`);
  expect(bare.status()).toBe(401);
  const dialog = page.getByRole("dialog", { name: "Sign in" });
  await dialog.getByLabel("Password").fill("a sentence of the tidf");
  await dialog.getByRole("button", { name: "Sign in" }).click();
  await expect(dialog.getByText("The password is wrong")).toBeVisible();
  await dialog.getByLabel("Password").fill("a sentence of the tide");
  await dialog.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByTestId("tests-sum")).toBeVisible();
  await page.getByRole("button", { name: "Off → Games", exact: true }).click();
  kestrel.link.cut();
  await page.getByRole("button", { name: "Passed" }).click();
  await expect(page.getByText(/result waits on this device/)).toBeVisible();
  await kestrel.link.open();
  await expect(page.getByText(/result waits on this device/)).toBeHidden({ timeout: 30_000 });
  await page.getByRole("button", { name: "Back to the list" }).click();
  await page.getByRole("button", { name: /^All/ }).click();
  await expect(page.getByRole("row").filter({ hasText: "Off → Games" }).first()).toContainText("passed");
  // Nothing is wider than the glass.
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
});

test("an empty room has nothing to hand over, and says what to do", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await room(page, "Cupboard");
  await handover(page);
  await expect(page.getByText(/Nothing in this room takes time|What can be timed/).first()).toBeVisible();
});
