import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import { accessible, expect, opened, test } from "./server";

/** A press of a key of a remote that no built-in protocol fits: 16 and 8 bits and their complement, 500 µs to the unit. */
function press(key: number, frames = 3): string {
  const bits = (value: number, count: number) => Array.from({ length: count }, (_, at) => (value >> at) & 1);
  const all = [...bits(0x7a11, 16), ...bits(key, 8), ...bits(~key, 8)];
  const frame = [6000, -3000, ...all.flatMap((bit) => [500, bit ? -1500 : -500]), 500];
  const length = frame.reduce((sum, us) => sum + Math.abs(us), 0);
  const whole = [...frame, length - 90_000];
  const signed = (us: number) => (us < 0 ? String(us) : `+${us}`);
  return Array.from({ length: frames }, () => whole.map(signed).join(" ")).join(" ");
}

async function tool(page: Page, name: string) {
  await page.getByRole("button", { name: "More" }).click();
  await page.getByRole("menuitem", { name }).click();
}

async function choose(page: Page, label: string, option: string) {
  await page.getByRole("combobox", { name: label, exact: true }).click();
  await page.getByRole("option", { name: option, exact: true }).click();
}

test("an unknown protocol is described from three captures, learned on, sent, exported and imported elsewhere", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  const sheet = page.getByRole("dialog", { name: "Protocols of this house" });

  await test.step("three captures are enough for a proposal that says how well it explains them", async () => {
    await tool(page, "Describe a protocol …");
    await expect(sheet.getByText("None is described yet.")).toBeVisible();
    for (const key of [3, 77, 128]) {
      await sheet.getByLabel("A capture of one key").fill(press(key));
      await sheet.getByRole("button", { name: "Add this capture" }).click();
    }
    await sheet.getByRole("button", { name: "Propose a description" }).click();
    const found = sheet.getByRole("list", { name: "What was found" });
    await expect(found).toContainText("Bits 25 to 32 are the complement of F.");
    await expect(found).toContainText("It explains 9 of 9 frames");
    await expect(sheet.getByTestId("described-frame")).toContainText("D 0–65535; F 0–255");
    await expect(sheet.getByRole("img", { name: /^Waveform of 67 durations/ })).toBeVisible();
  });

  await test.step("a slip in it is told with its place", async () => {
    const irp = sheet.getByLabel("Description in IRP");
    const whole = await irp.inputValue();
    await irp.fill(whole.replace("|", ";"));
    await expect(sheet.getByRole("alert")).toContainText("“;” does not fit here");
    await irp.fill(whole);
    await sheet.getByLabel("Name").fill("lantern");
    await sheet.getByLabel("Note: which remote it is from").fill("the brass lantern of the attic");
    await accessible(page);
    await sheet.getByRole("button", { name: "Keep with the house" }).click();
    const kept = sheet.getByRole("table", { name: "Protocols that are described" });
    await expect(kept.getByRole("row").filter({ hasText: "lantern" })).toContainText(
      "brass lantern of the attic",
    );
    await page.keyboard.press("Escape");
  });

  await test.step("a key is learned on it", async () => {
    await tool(page, "Add a function …");
    await choose(page, "Device", "Disc player");
    await page.getByLabel("Name, as on the key").fill("Lantern");
    await page.getByRole("button", { name: "Add function" }).click();
    await page.getByRole("textbox", { name: /^Capture/ }).fill(press(201));
    await expect(page.getByText(/^Read as lantern D=31249 F=201/)).toBeVisible();
    await page.getByRole("button", { name: "Save code" }).click();
    await expect(page.getByRole("button", { name: "Lantern of Disc player: decoded" })).toBeVisible();
  });

  await test.step("it is sent in the rehearsal room, and heard there", async () => {
    await page.keyboard.press("t");
    await expect(page.getByRole("status").filter({ hasText: "Sent." })).toBeVisible();
    await page.keyboard.press("Escape");
    await page.keyboard.press("r");
    await expect(page.getByText("lantern D=31249 F=201").first()).toBeVisible();
    await page.keyboard.press("2");
  });

  let table = "";
  await test.step("it is exported with what it means", async () => {
    await tool(page, "Export codes …");
    await choose(page, "Whose codes", "Disc player");
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      page.getByRole("link", { name: "Save as Code set, CSV" }).click(),
    ]);
    table = await readFile(await download.path(), "utf8");
    expect(table).toContain("irp:lantern{38k,500}");
    await page.keyboard.press("Escape");
  });

  await test.step("another house that has never heard of it takes it over", async () => {
    await page.goto(kestrel.url);
    await page.getByRole("button", { name: "Start a house" }).first().click();
    const start = page.getByRole("dialog", { name: "Start a house" });
    await start.getByLabel("Name of the house").fill("Teal House");
    await start.getByRole("button", { name: "Start the house" }).click();
    await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Teal House ▸ /);
    await page.keyboard.press("2");
    await tool(page, "Import or copy codes …");
    const imports = page.getByRole("dialog", { name: "Import or copy codes" });
    await imports.getByRole("textbox", { name: /^A remote keymap/ }).fill(table);
    await page.getByRole("combobox", { name: "To", exact: true }).click();
    await page.getByRole("option").nth(1).click();
    const preview = imports.getByRole("table", { name: "What would be imported" });
    await expect(preview.getByRole("row").filter({ hasText: "Lantern" })).toContainText(
      "lantern D=31249 F=201",
    );
    await imports.getByRole("button", { name: /^Take \d+ over/ }).click();
    await expect(imports).toHaveCount(0);
    await tool(page, "Describe a protocol …");
    const brought = sheet.getByRole("row").filter({ hasText: "lantern" });
    await expect(brought).toContainText("brought along by codes");
    await brought.getByRole("button", { name: "Keep lantern" }).click();
    await expect(brought.getByRole("button", { name: "Remove lantern" })).toBeVisible();
  });
});

test.describe("on a phone, by touch", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true });

  test("a protocol is typed, mended where it goes wrong, kept, and taken back", async ({ page, kestrel }) => {
    await page.goto(kestrel.home);
    await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
    await page.goto(`${page.url().replace(/\/kit.*$/, "")}/codes?tool=protocols`);
    const sheet = page.getByRole("dialog", { name: "Protocols of this house" });
    const irp = sheet.getByLabel("Description in IRP");
    await irp.tap();
    await irp.fill("{38k,500}<1,-1|1,-3>(12,-6,D:16,F:8,1)*[D:0..65535,F:0..255]");
    await expect(sheet.getByText(/say the silence after it/)).toBeVisible();
    await expect(sheet.getByRole("button", { name: "Keep with the house" })).toBeDisabled();
    await irp.fill("{38k,500}<1,-1|1,-3>(12,-6,D:16,F:8,1,^90m)*[D:0..65535,F:0..255]");
    await expect(sheet.getByTestId("described-frame")).toContainText("Nothing checks its bits.");
    await sheet.getByLabel("Name").fill("attic");
    await sheet.getByRole("button", { name: "Keep with the house" }).tap();
    const kept = sheet.getByRole("row").filter({ hasText: "attic" });
    await expect(kept).toBeVisible();
    // Nothing stands beyond the edge of the phone.
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(wide).toBeLessThanOrEqual(390);
    await accessible(page);
    await kept.getByRole("button", { name: "Remove attic" }).tap();
    await expect(sheet.getByText("None is described yet.")).toBeVisible();
  });
});

test("a protocol is described with the keyboard alone, and what was typed outlives a reload", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await page.getByRole("button", { name: "More" }).focus();
  await page.keyboard.press("Enter");
  await page.getByRole("menuitem", { name: "Describe a protocol …" }).focus();
  await page.keyboard.press("Enter");
  const sheet = page.getByRole("dialog", { name: "Protocols of this house" });
  await sheet.getByLabel("A capture of one key").focus();
  for (const key of [3, 77, 128]) {
    await page.keyboard.insertText(press(key));
    await page.keyboard.press("Tab");
    await expect(sheet.getByRole("button", { name: "Add this capture" })).toBeFocused();
    await page.keyboard.press("Enter");
    await sheet.getByLabel("A capture of one key").focus();
  }
  await page.reload();
  await expect(sheet.getByRole("list", { name: "Captures to compare" }).getByRole("listitem")).toHaveCount(3);
  await sheet.getByRole("button", { name: "Propose a description" }).focus();
  await page.keyboard.press("Enter");
  await expect(sheet.getByRole("list", { name: "What was found" })).toContainText(
    "It explains 9 of 9 frames",
  );
  await sheet.getByLabel("Name").focus();
  await page.keyboard.type("lantern");
  await expect(sheet.getByTestId("described-frame")).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(sheet.getByRole("row").filter({ hasText: "lantern" })).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(sheet).toHaveCount(0);
  // It is one step of the history.
  await page.getByRole("button", { name: /^Undo/ }).click();
  await expect(page.getByText(/lantern/).first()).toBeVisible();
});
