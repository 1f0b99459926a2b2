import { expect, test } from "./server";
import type { Page } from "@playwright/test";

async function openProjector(page: Page, url: string) {
  await page.goto(url);
  await page.getByRole("button", { name: /^Projector/ }).click();
  return page.getByRole("form").first();
}

test("two open pages see each other's edits, and a stale one is refused with a choice", async ({
  page,
  context,
  kestrel,
}) => {
  const other = await context.newPage();
  const mine = await openProjector(page, kestrel.home);
  const theirs = await openProjector(other, kestrel.home);
  await mine.getByLabel("Name in this room").fill("Beamer");
  await theirs.getByLabel("Name in this room").fill("Lantern");
  await theirs.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("on another page: Lantern: name “Projector” → “Lantern”")).toBeVisible();
  await expect(page.getByRole("button", { name: /^Lantern/ })).toBeVisible();
  await expect(mine.getByLabel("Name in this room")).toHaveValue("Beamer");
  await mine.getByRole("button", { name: "Save" }).click();
  await expect(mine.getByRole("alert")).toContainText("Lantern was changed in the meantime");
  await mine.getByRole("button", { name: "Save mine over it" }).click();
  await expect(page.getByText("Beamer: name “Lantern” → “Beamer”")).toBeVisible();
  await expect(other.getByRole("button", { name: /^Beamer/ })).toBeVisible();
  await expect(theirs.getByLabel("Name in this room")).toHaveValue("Beamer");
});

test("every edit is in the log, is undone and redone, and survives a restart", async ({ page, kestrel }) => {
  const form = await openProjector(page, kestrel.home);
  await form.getByLabel("Name in this room").fill("Beamer");
  await form.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("button", { name: /^Undo: Beamer/ })).toBeEnabled();
  await form.getByRole("button", { name: "Close" }).click();
  await page.keyboard.press("Control+z");
  await expect(page.getByRole("button", { name: /^Projector/ })).toBeVisible();
  await page.keyboard.press("Control+Shift+Z");
  await expect(page.getByRole("button", { name: /^Beamer/ })).toBeVisible();
  await kestrel.restart();
  await page.goto(kestrel.home);
  await expect(page.getByRole("button", { name: /^Beamer/ })).toBeVisible();
  await page.getByRole("button", { name: "Logbook" }).click();
  const log = page.getByRole("dialog", { name: "Logbook of Marram Point" });
  await expect(log.getByRole("row")).toHaveCount(4);
  await expect(log.getByText("Redone: Beamer: name “Projector” → “Beamer”")).toBeVisible();
});

test("the database goes away: the page says so, keeps what is typed, and recovers by itself", async ({
  page,
  kestrel,
}) => {
  const form = await openProjector(page, kestrel.home);
  await form.getByLabel("Name in this room").fill("Beamer");
  kestrel.link.cut();
  await form.getByRole("button", { name: "Save" }).click();
  await expect(form.getByRole("alert")).toContainText("cannot be reached");
  await expect(page.getByText("this page tries again by itself")).toBeVisible({ timeout: 15_000 });
  await expect(form.getByLabel("Name in this room")).toHaveValue("Beamer");
  await kestrel.link.open();
  await expect(page.getByText("this page tries again by itself")).toHaveCount(0, { timeout: 15_000 });
  await form.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("Beamer: name “Projector” → “Beamer”")).toBeVisible();
});

test("a device is added with figures of common practice, wired, and removed again", async ({
  page,
  kestrel,
}) => {
  await page.goto(kestrel.home);
  await page.getByRole("button", { name: "Add device" }).click();
  const sheet = page.getByRole("dialog", { name: "Add device" });
  await sheet.getByLabel("Name in this room").fill("Second console");
  await sheet.getByRole("combobox", { name: "What it is" }).click();
  await page.getByRole("option", { name: "Game console" }).click();
  await sheet.getByLabel("Maker").fill("Fennick");
  await sheet.getByLabel("Model name").fill("G7");
  await sheet.getByRole("button", { name: "Add device" }).click();
  await expect(page.getByText("14 devices, 6 cables")).toBeVisible();
  const socket = page.getByRole("combobox", { name: "What is plugged into Game of Receiver" });
  await socket.click();
  await page.getByRole("option", { name: "Second console · HDMI out" }).click();
  await expect(page.getByText("14 devices, 6 cables")).toBeVisible();
  await page
    .getByRole("form", { name: "Second console" })
    .getByRole("button", { name: "Remove device" })
    .click();
  await expect(page.getByText("13 devices, 5 cables")).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(page.getByText("14 devices, 6 cables")).toBeVisible();
});
