import { readFile } from "node:fs/promises";
import { accessible, expect, opened, roomList, test } from "./server";

test("records are seen together, and secrets leave only where they are asked for", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.getByRole("tab", { name: "Records" }).click();
  const table = page.getByRole("table", { name: "Records of devices" });
  const gateway = table.getByRole("row").filter({ hasText: "Hall gateway" });
  await expect(gateway).toContainText("Local key: kept");
  await expect(gateway).toContainText("Firmware: 2.4.1");
  await accessible(page);
  const saved = async () => {
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      page.getByRole("link", { name: "Save as CSV" }).click(),
    ]);
    expect(download.suggestedFilename()).toBe("records.csv");
    return (await readFile(await download.path(), "utf8")).split("\n")[0] ?? "";
  };
  expect(await saved()).not.toContain("local_key");
  await page.getByRole("checkbox", { name: "With local keys and accounts" }).check();
  expect(await saved()).toContain("local_key");
  await gateway.getByRole("button", { name: "Hall gateway" }).click();
  await expect(page.getByRole("textbox", { name: "Firmware" })).toHaveValue("2.4.1");
});

test("the whole house is one table, which is searched and walked", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await page.getByRole("combobox", { name: "Where" }).click();
  await page.getByRole("option", { name: "whole house" }).click();
  await expect(page.getByText("174 of 179 have a code, 0 tested")).toBeVisible();
  const grid = page.getByRole("grid", { name: "Functions against devices" });
  await expect(grid.getByRole("columnheader", { name: "Cabin disc player" })).toBeVisible();
  await page.getByRole("searchbox", { name: "Find in the table" }).fill("lamp");
  await expect(grid.getByRole("rowheader")).toHaveText(["Lamp"]);
  await page.getByRole("searchbox", { name: "Find in the table" }).fill("nothing of the kind");
  await expect(page.getByText("Nothing is found for “nothing of the kind”.")).toBeVisible();
  await page.getByRole("searchbox", { name: "Find in the table" }).fill("");
  await page.getByRole("button", { name: "Play of Streamer: decoded" }).focus();
  for (let at = 0; at < 3; at++) await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("button", { name: "Play of Tidy streamer: decoded" })).toBeFocused();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("region", { name: "Play of Tidy streamer" })).toBeVisible();
  await accessible(page);
});

test("a new room is empty, says what comes first, and can be taken away again", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  const sheet = await roomList(page);
  await sheet.getByRole("button", { name: "Add the room" }).click();
  await expect(sheet.getByRole("alert")).toContainText("give it a name");
  await sheet.getByLabel("Name of a new room").fill("Boat Hall");
  await sheet.getByRole("button", { name: "Add the room" }).click();
  await expect(sheet.getByRole("alert")).toContainText("“Boat Hall” is taken");
  await sheet.getByLabel("Name of a new room").fill("Sail Loft");
  await sheet.getByRole("button", { name: "Add the room" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Marram Point ▸ Sail Loft");
  await expect(page.getByText("Nothing to mend in this room.")).toBeVisible();
  for (const key of ["1", "2", "3", "6"]) {
    await page.keyboard.press(key);
    await expect(page.getByRole("heading", { level: 2 }).first()).toBeVisible();
    await accessible(page);
  }
  await page.keyboard.press("1");
  const rooms = await roomList(page);
  await rooms.getByRole("button", { name: "What to do with Sail Loft" }).click();
  await page.getByRole("menuitem", { name: "Remove …" }).click();
  await expect(rooms.getByText("Nothing is in it.")).toBeVisible();
  await accessible(page);
  await rooms.getByRole("button", { name: "Remove Sail Loft" }).click();
  await expect(page.getByRole("heading", { level: 1 })).not.toHaveText("Marram Point ▸ Sail Loft");
});
