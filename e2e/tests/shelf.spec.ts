import { execFileSync } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { resolve } from "node:path";
import type { Page } from "@playwright/test";
import { accessible, expect, roomList, test } from "./server";

/** Counts clicks, taps and keys that are no letters of a text, from now on. */
async function counting(page: Page): Promise<() => Promise<number>> {
  await page.addInitScript(() => {
    const count = () => sessionStorage.setItem("count", String(Number(sessionStorage.getItem("count")) + 1));
    window.addEventListener("click", (event) => event.isTrusted && event.detail > 0 && count(), true);
    window.addEventListener(
      "keydown",
      (event) => {
        const typing = event.target instanceof HTMLInputElement && event.key.length === 1;
        if (event.isTrusted && !typing) count();
      },
      true,
    );
  });
  return () => page.evaluate(() => Number(sessionStorage.getItem("count")));
}

async function startCinema(page: Page, name: string) {
  await page.getByRole("button", { name: "Start a house" }).first().click();
  const sheet = page.getByRole("dialog", { name: "Start a house" });
  await sheet.getByLabel("Name of the house").fill(name);
  await sheet.getByRole("button", { name: "Start the house" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(new RegExp(`${name} ▸ Cinema`));
}

test("from an empty shelf to the plan of a cinema that can be sent, in at most 10 clicks and keys", async ({
  page,
  bare,
}) => {
  const count = await counting(page);
  await page.goto(bare.url);
  await expect(page.getByText("The shelf is empty")).toBeVisible();
  await accessible(page);
  await startCinema(page, "Teal House");
  await page.keyboard.press("3");
  await expect(page.getByText(/Certain if nobody else touches it/)).toBeVisible();
  await expect(page.getByText(/^ready in/)).toBeVisible();
  await expect(page.getByText("Cannot be sent")).toHaveCount(0);
  expect(await count()).toBeLessThanOrEqual(10);
});

/** A capture of an infrared key, as one would paste it. */
function captured(address: number, command: number): string {
  const binary =
    process.env["KESTREL_BINARY"] ?? resolve(import.meta.dirname, "../../target/debug/kestrel-dune");
  return execFileSync(binary, ["encode", "nec", `address=${address}`, `command=${command}`], {
    encoding: "utf8",
  });
}

test("a room from nothing, of own models and pasted codes, runs a macro after at most 60 clicks and keys", async ({
  page,
  bare,
}) => {
  const count = await counting(page);
  await page.goto(bare.url);
  await page.getByRole("button", { name: "Start a house" }).first().click();
  const start = page.getByRole("dialog", { name: "Start a house" });
  await start.getByLabel("Name of the house").fill("Old Mill");
  await start.getByRole("combobox", { name: "What room 1 begins with" }).click();
  await page.getByRole("option", { name: "Empty room" }).click();
  await start.getByRole("button", { name: "Start the house" }).click();
  await expect(page.getByText("1 of 6")).toBeVisible();

  const add = page.getByRole("dialog", { name: "Add device" });
  for (const [name, kind] of [
    ["Gateway", "Gateway"],
    ["Streamer", "Streamer"],
    ["Display", "Display"],
  ]) {
    await page.getByRole("button", { name: "Add device" }).click();
    await add.getByLabel("Name in this room").fill(name ?? "");
    if (kind) {
      await add.getByRole("combobox", { name: "What it is" }).click();
      await page.getByRole("option", { name: kind, exact: true }).click();
    }
    await add.getByLabel("Maker").fill("Ostwick");
    await add.getByLabel("Model name").fill(`Own ${name}`);
    await add.getByRole("button", { name: "Add device" }).click();
    await expect(add).toHaveCount(0);
  }
  await page.getByRole("form", { name: "Display" }).getByRole("button", { name: "Close" }).click();
  await page.getByRole("combobox", { name: "What is plugged into HDMI 1 of Display" }).click();
  await page.getByRole("option", { name: "Streamer · HDMI out" }).click();
  await expect(page.getByText("3 devices, 1 cable")).toBeVisible();
  await expect(page.getByText("4 of 6")).toBeVisible();

  await page.keyboard.press("3");
  await page.getByRole("button", { name: /^Add/ }).first().click();
  const activity = page.getByRole("dialog", { name: "Add activity" });
  await activity.getByLabel("Name").fill("Streaming");
  await activity.getByRole("button", { name: "Add activity" }).click();
  await expect(page.getByText("5 of 6")).toBeVisible();

  await page.keyboard.press("2");
  for (const [device, address] of [
    ["Streamer", 4],
    ["Display", 9],
  ] as const) {
    for (const [key, command] of [
      ["Power on", 2],
      ["Power off", 3],
    ] as const) {
      await page.getByRole("button", { name: `${key} of ${device}: no code` }).click();
      const panel = page.getByRole("region", { name: `${key} of ${device}` });
      await panel.getByRole("textbox", { name: /^Capture/ }).fill(captured(address, command));
      await panel.getByRole("button", { name: "Save code" }).click();
      await expect(page.getByRole("button", { name: `${key} of ${device}: decoded` })).toBeVisible();
    }
  }
  await expect(page.getByText(/^\d of 6$/)).toHaveCount(0);

  await page.keyboard.press("Escape");
  await page.keyboard.press("6");
  await page.getByRole("button", { name: "10 ×" }).click();
  await page.getByRole("button", { name: "Streaming", exact: true }).click();
  await expect(page.getByTestId("run")).toHaveAttribute("data-end", /ready|sent/, { timeout: 60_000 });
  await expect(page.getByTestId("in-truth")).toContainText("everything is as it should be");
  expect(await count()).toBeLessThanOrEqual(60);
});

test("a house with two rooms by keyboard alone: started, left, found again where it was left", async ({
  page,
  bare,
}) => {
  await page.goto(bare.url);
  await expect(page.getByText("The shelf is empty")).toBeVisible();
  await page.keyboard.press("n");
  const sheet = page.getByRole("dialog", { name: "Start a house" });
  await expect(sheet.getByLabel("Name of the house")).toBeFocused();
  await page.keyboard.type("Ness End");
  await sheet.getByRole("button", { name: "Another room" }).focus();
  await page.keyboard.press("Enter");
  await sheet.getByLabel("Name of room 2").focus();
  await page.keyboard.type("Larder");
  await accessible(page);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Ness End ▸ Cinema/);
  await page.keyboard.press("]");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Ness End ▸ Larder/);
  await expect(page.getByText("1 of 6")).toBeVisible();
  await page.keyboard.press("3");
  await page.keyboard.press("g");
  await expect(page.getByRole("table", { name: "Houses" })).toContainText("2 rooms");
  await expect(page.getByRole("cell", { name: /next in Larder/ }).last()).toBeVisible({ timeout: 20_000 });
  await accessible(page);
  await page.getByRole("link", { name: "Ness End" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Ness End ▸ Larder/);
  await expect(page).toHaveURL(/sequences$/);
});

test("what was typed for a new house is there after a reload, and gone once it is started", async ({
  page,
  bare,
}) => {
  await page.goto(bare.url);
  await page.getByRole("button", { name: "Start a house" }).first().click();
  await page.getByLabel("Name of the house").fill("Skerry Lodge");
  await page.reload();
  await page.getByRole("button", { name: "Start a house" }).first().click();
  await expect(page.getByLabel("Name of the house")).toHaveValue("Skerry Lodge");
  await page.getByRole("button", { name: "Start the house" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Skerry Lodge/);
  await page.keyboard.press("g");
  await page.getByRole("button", { name: "Start a house" }).click();
  await expect(page.getByLabel("Name of the house")).toHaveValue("");
});

test("a house is duplicated, named, exported, imported as a copy and in place of, removed and put back", async ({
  page,
  kestrel,
}, info) => {
  await page.goto(kestrel.url);
  const menu = (name: string) => page.getByRole("button", { name: `What to do with ${name}`, exact: true });
  const act = async (house: string, what: string) => {
    await menu(house).click();
    await page.getByRole("menuitem", { name: what }).click();
  };
  await act("Marram Point", "Duplicate");
  await expect(page.getByRole("status").getByText("Marram Point 2 is a copy")).toBeVisible();
  await act("Marram Point 2", "Name, client, programmer …");
  const card = page.getByRole("dialog", { name: "The house" });
  await card.getByLabel("Name", { exact: true }).fill("Holiday house");
  await card.getByLabel("Telephone number of the programmer").fill("555 0199");
  await accessible(page);
  await card.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("link", { name: "Holiday house" })).toBeVisible();

  const saved = page.waitForEvent("download");
  await act("Marram Point", "Export without keys");
  const file = info.outputPath("marram-point.kdune.json");
  await (await saved).saveAs(file);
  const site = JSON.parse(readFileSync(file, "utf8")) as { site: { house: { note: string } } };
  site.site.house.note = "Changed on the way";
  writeFileSync(file, JSON.stringify(site));

  const importing = async () => {
    await page.getByRole("button", { name: "Import a file" }).click();
    const sheet = page.getByRole("dialog", { name: "Import a file" });
    await sheet.getByLabel("Site file").setInputFiles(file);
    await expect(sheet.getByText("is on the shelf already")).toBeVisible();
    return sheet;
  };
  const first = await importing();
  await expect(first.getByText("add 0, change 1 and remove 0 things")).toBeVisible();
  await accessible(page);
  await first.getByRole("button", { name: "As a copy beside it" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Marram Point 2/);
  await page.keyboard.press("g");
  const second = await importing();
  await second.getByRole("button", { name: "In place of it" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Marram Point ▸/);
  await expect(page.getByRole("button", { name: /^Undo/ })).toBeEnabled();

  await page.keyboard.press("g");
  await act("Marram Point", "Remove");
  await expect(page.getByText(/Marram Point, kept until/)).toBeVisible();
  await page.goto(kestrel.home);
  await expect(page.getByText("This house is not on the shelf any more")).toBeVisible();
  await page.getByRole("link", { name: "Go to the shelf" }).click();
  await page.getByRole("button", { name: "Put Marram Point back" }).click();
  await expect(page.getByRole("link", { name: "Marram Point", exact: true })).toBeVisible();
});

test("a bad file is refused in a sentence, and nothing changes", async ({ page, kestrel }, info) => {
  await page.goto(kestrel.url);
  await page.getByRole("button", { name: "Import a file" }).click();
  const sheet = page.getByRole("dialog", { name: "Import a file" });
  const picture = info.outputPath("house.kdune.json");
  writeFileSync(picture, Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10]));
  await sheet.getByLabel("Site file").setInputFiles(picture);
  await expect(sheet.getByRole("alert")).toContainText("This is a picture, whatever its name says");
});

test("two pages remove one house: the second is told, and a page in it says so", async ({
  page,
  context,
  kestrel,
}) => {
  const inside = await context.newPage();
  await inside.goto(kestrel.home);
  await expect(inside.getByRole("heading", { name: "Kit" })).toBeVisible();
  const other = await context.newPage();
  await other.goto(kestrel.url);
  await other.getByRole("button", { name: "What to do with Marram Point" }).click();
  // The second page does not hear of it before somebody presses there.
  await other.route("**/api/shelf", (route) => route.abort());
  await page.goto(kestrel.url);
  await page.getByRole("button", { name: "What to do with Marram Point" }).click();
  await page.getByRole("menuitem", { name: "Remove" }).click();
  await expect(page.getByText(/Marram Point, kept until/)).toBeVisible();
  await other.getByRole("menuitem", { name: "Remove" }).click();
  await expect(other.getByRole("alert")).toContainText("There is no such house");
  await expect(inside.getByText("This house is not on the shelf any more")).toBeVisible();
});

test("a backup is saved, everything is removed, and a restore brings it back into a second installation", async ({
  page,
  kestrel,
  bare,
}, info) => {
  await page.goto(kestrel.url);
  await page.getByRole("button", { name: "Backup" }).click();
  const sheet = page.getByRole("dialog", { name: "Backup of everything" });
  await accessible(page);
  const saved = page.waitForEvent("download");
  await sheet.getByRole("link", { name: "Save a backup" }).click();
  const file = info.outputPath("all.kdune-backup.tar");
  await (await saved).saveAs(file);
  const bytes = async (from: string, house: string) =>
    (await page.request.get(`${from}${house}/site?secrets=true`)).body();
  const house = "/api/houses/6b640000-0000-7000-8000-000000000001";
  const before = await bytes(kestrel.url, house);

  await page.goto(bare.url);
  await page.getByRole("button", { name: "Backup" }).click();
  await sheet.getByLabel("Backup file").setInputFiles(file);
  await expect(sheet.getByText(/Made just now|Made \d+ min ago/)).toBeVisible();
  await sheet.getByRole("button", { name: "Restore" }).click();
  await expect(page.getByRole("link", { name: "Marram Point" })).toBeVisible();
  expect((await bytes(bare.url, house)).equals(before)).toBe(true);
});

test("rooms are moved, filled and removed from the title; the last one leaves an offer of a new one", async ({
  page,
  bare,
}) => {
  await page.goto(bare.url);
  await startCinema(page, "Teal House");
  const rooms = await roomList(page);
  await rooms.getByLabel("Name of a new room").fill("Attic");
  await rooms.getByRole("combobox", { name: "What the new room begins with" }).click();
  await page.getByRole("option", { name: "Bedroom" }).click();
  await rooms.getByRole("button", { name: "Add the room" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Teal House ▸ Attic/);
  await expect(page.getByText("3 devices, 1 cable")).toBeVisible();
  await roomList(page);
  await rooms.getByRole("button", { name: "Attic one place up" }).click();
  await expect(rooms.getByRole("listitem").first()).toContainText("Attic");
  await accessible(page);
  for (const name of ["Cinema", "Attic"]) {
    await rooms.getByRole("button", { name: `What to do with ${name}` }).click();
    await page.getByRole("menuitem", { name: "Remove …" }).click();
    await expect(rooms.getByText(/^With it go/)).toBeVisible();
    await rooms.getByRole("button", { name: `Remove ${name}` }).click();
  }
  await expect(page.getByText("This house has no room yet. Add the first one.")).toBeVisible();
  await accessible(page);
  await page.getByRole("button", { name: /^Undo: Removed/ }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Teal House ▸ Attic/);
});

test("the shelf on a phone: started, opened and backed up by touch, nothing scrolls sideways", async ({
  browser,
  bare,
}) => {
  const context = await browser.newContext({ viewport: { width: 390, height: 844 }, hasTouch: true });
  const page = await context.newPage();
  await page.goto(bare.url);
  await page.getByRole("button", { name: "Start a house" }).first().tap();
  await page.getByLabel("Name of the house").fill("Teal House");
  await accessible(page);
  await page.getByRole("button", { name: "Start the house" }).tap();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Teal House ▸ Cinema/);
  await page.getByRole("link", { name: "Teal House" }).tap();
  await expect(page.getByRole("table", { name: "Houses" })).toBeVisible();
  await accessible(page);
  const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
  expect(wide).toBeLessThanOrEqual(0);
  await context.close();
});
