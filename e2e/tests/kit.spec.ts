import { accessible, expect, opened, roomList, test } from "./server";
import type { Page } from "@playwright/test";

async function choose(page: Page, label: string, option: string) {
  await page.getByRole("combobox", { name: label, exact: true }).click();
  await page.getByRole("option", { name: option, exact: true }).click();
}

test("a device differs from its model in one field, and is brought back", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.getByRole("button", { name: /^Projector/ }).click();
  const form = page.getByRole("form", { name: "Projector" });
  await choose(page, "Changes are for", "this device alone");
  await form.getByLabel("Pause after a command (s)").fill("1.5");
  await form.getByRole("button", { name: "Save" }).click();
  await expect(form.getByText("Differs from Tarnbeck P2 in: pause after a command.")).toBeVisible();
  await expect(page.getByText("1.5 s apart")).toBeVisible();
  await form.getByRole("button", { name: "Be as the model again" }).click();
  await expect(page.getByText("1 s apart", { exact: true })).toBeVisible();
  await form.getByText("Volume, settings, channels, feedback").click();
  await form.getByLabel("It makes sound").check();
  await form.getByLabel("Never louder than").fill("700");
  await form.getByRole("button", { name: "Save" }).click();
  await expect(form.getByRole("alert")).toContainText(
    "the ceiling and the start value lie between 0 and 100",
  );
  await accessible(page);
});

test("control paths are ordered, and three checks tell what a remote is", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  const margin = page.getByRole("complementary", { name: "Notes in the margin" });
  await expect(margin.getByText("Receiver is controlled by infrared with discrete codes")).toBeVisible();
  await page.getByRole("button", { name: /^Receiver/ }).click();
  await page.getByRole("tab", { name: "Control paths" }).click();
  await page.getByRole("button", { name: "Prefer Network more" }).click();
  await expect(margin.getByText("Receiver is controlled by infrared with discrete codes")).toHaveCount(0);
  await page.getByLabel("Lost presses by Infrared").fill("41");
  await page.getByLabel("Lost presses by Infrared").press("Enter");
  await expect(page.getByRole("alert")).toContainText("41 of 40 presses cannot be lost");
  await accessible(page);
  await page.getByRole("button", { name: "What is this remote?" }).click();
  const sheet = page.getByRole("dialog", { name: "What is this remote?" });
  await choose(page, "Works through a hand", "yes");
  await expect(sheet.getByRole("status")).toContainText("Read the label on its back");
  await choose(page, "Frequency on its label", "2.4 GHz");
  await expect(sheet.getByRole("status")).toContainText("It cannot be learned.");
  await sheet.getByRole("button", { name: "Note it as a control path" }).click();
  await expect(page.getByRole("table", { name: "Control paths of Receiver" })).toContainText("Bluetooth");
});

test("addresses are typed in place, checked, and saved as CSV", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  const heading = page.getByRole("heading", { level: 1 });
  for (const room of ["Watch Room", "Slip Deck", "Bunk Cabin"]) {
    await page.keyboard.press("]");
    await expect(heading).toHaveText(`Marram Point ▸ ${room}`);
  }
  await page.getByRole("tab", { name: "Addresses" }).click();
  const margin = page.getByRole("complementary", { name: "Notes in the margin" });
  await expect(margin.getByText("Cabin gateway and Watch gateway both have the address")).toBeVisible();
  await accessible(page);
  const ip = page.getByLabel("IP address of Cabin gateway");
  await ip.fill("10.0.4.300");
  await ip.press("Enter");
  await expect(margin.getByText("“10.0.4.300” of Cabin gateway is no IP address.")).toBeVisible();
  await ip.fill("10.0.4.35");
  await ip.press("Enter");
  await choose(page, "Connection of Cabin gateway", "2.4 GHz");
  const mac = page.getByLabel("MAC address of Cabin gateway");
  await mac.fill("02:4d:50:00:00:23");
  await mac.press("Enter");
  await expect(margin.getByText(/is no MAC address|is no IP address|both have the address/)).toHaveCount(0);
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Save as CSV" }).click(),
  ]);
  expect(download.suggestedFilename()).toBe("addresses.csv");
});

test("records are kept with a photo, and inputs are read back from the device", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("6");
  await page.getByRole("button", { name: "10 ×" }).click();
  await page.keyboard.press("1");
  await page.getByRole("button", { name: /^Receiver/ }).click();
  await page.getByRole("tab", { name: "Address and records" }).click();
  await page.getByRole("button", { name: "Select and read" }).nth(1).click();
  await expect(page.getByRole("alert")).toContainText("Is it on?");
  await page.keyboard.press("2");
  await page.getByRole("button", { name: "Power on of Receiver: decoded" }).click();
  await expect(page.getByRole("region", { name: "Power on of Receiver" })).toContainText("Read as nec-ext");
  await page.keyboard.press("t");
  await expect(page.getByText("Sent. Receiver: starting up.")).toBeVisible();
  await page.keyboard.press("1");
  await page.getByRole("button", { name: /^Receiver/ }).click();
  await page.getByRole("tab", { name: "Address and records" }).click();
  await expect(async () => {
    await page.getByRole("button", { name: "Select and read" }).nth(1).click();
    await expect(page.getByLabel("Reported name of Stream")).toHaveValue("MPLAY", { timeout: 3_000 });
  }).toPass();
  const serial = page.getByRole("textbox", { name: "Serial number" });
  await serial.fill("R9-0042");
  await serial.press("Enter");
  await expect(page.getByText(/Receiver: serial number/)).toBeVisible();
  await page.getByLabel("Photo of the label").setInputFiles({
    name: "label.png",
    mimeType: "image/png",
    buffer: Buffer.from(
      "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==",
      "base64",
    ),
  });
  await expect(page.getByRole("img", { name: "label.png, Receiver" })).toBeVisible();
  await page.getByLabel("Photo of the label").setInputFiles({
    name: "label.txt",
    mimeType: "text/plain",
    buffer: Buffer.from("no picture"),
  });
  await expect(page.getByRole("alert")).toContainText("This is no PNG, JPEG or WebP picture");
  await accessible(page);
  await page.getByRole("tab", { name: "Records", exact: true }).click();
  await expect(page.getByRole("table", { name: "Records of devices" })).toContainText("R9-0042");
});

test("cables are plugged with the keyboard, and only where they fit", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.getByRole("tab", { name: "Wiring" }).click();
  const output = page.getByRole("button", { name: "Output Monitor out of Receiver, HDMI" });
  await output.focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "Input Line in of Amplifier, Analogue" })).toBeDisabled();
  const target = page.getByRole("button", { name: "Input HDMI 1 of Projector, HDMI" });
  for (
    let turn = 0;
    turn < 12 && !(await target.evaluate((known) => known === document.activeElement));
    turn++
  ) {
    await page.keyboard.press("ArrowDown");
  }
  await page.keyboard.press("Enter");
  const cables = page.getByRole("table", { name: "Cables of this room" });
  await expect(cables).toContainText("→ Projector · HDMI 1");
  const margin = page.getByRole("complementary", { name: "Notes in the margin" });
  await expect(margin.getByText("Two cables come out of Monitor out on Receiver.")).toBeVisible();
  await page.getByRole("button", { name: "Pull the cable from Receiver to Projector, HDMI 3" }).click();
  await expect(margin.getByText("Two cables come out")).toHaveCount(0);
  await cables.getByLabel("sound comes back through it").click();
  await expect(cables.getByLabel("sound comes back through it")).toBeChecked();
  await expect(page.getByText(/return audio/)).toBeVisible();
  await accessible(page);
});

test("a room is doubled with everything in it; a model is taken over from the library", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  const rooms = await roomList(page);
  await rooms.getByRole("button", { name: "What to do with Boat Hall" }).click();
  await page.getByRole("menuitem", { name: "Duplicate with all that is in it" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Marram Point ▸ Boat Hall 2");
  await expect(page.getByText("13 devices, 6 cables")).toBeVisible();
  await page.getByRole("button", { name: /^Undo/ }).click();
  await expect(page.getByRole("heading", { level: 1 })).not.toHaveText("Marram Point ▸ Boat Hall 2");
  await page.getByRole("tab", { name: "Models" }).click();
  await page.getByRole("button", { name: "Take Orrin L5 over" }).click();
  await expect(page.getByRole("table", { name: "Models of this house" })).toContainText("Orrin L5");
  await accessible(page);
  await page.getByRole("tab", { name: "Devices" }).click();
  await page.getByRole("button", { name: /^Screen/ }).click();
  await page.getByRole("button", { name: "Duplicate", exact: true }).click();
  await expect(page.getByRole("button", { name: /^Screen 2/ })).toBeVisible();
});

test("a device is replaced by another model, told before, in one step, by keyboard", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.getByRole("button", { name: /^Projector/ }).press("Enter");
  await page.getByRole("button", { name: "Replace …" }).press("Enter");
  const sheet = page.getByRole("dialog", { name: "Replace Projector by another model" });
  await sheet.getByRole("combobox", { name: "The new model" }).press("Enter");
  await page.keyboard.type("Orrin L5");
  await page.keyboard.press("Enter");
  await expect(sheet.getByText("the cable from Receiver")).toBeVisible();
  const socket = sheet.getByRole("combobox", { name: "What takes the place of Input HDMI 3" });
  await expect(socket).toHaveText("HDMI 1");
  await expect(sheet.getByText("6 codes of Tarnbeck P2; the library has 6 of Orrin L5.")).toBeVisible();
  const changed = sheet.getByRole("row", { name: /^Off → Streaming/ });
  await expect(changed).toContainText(/\d:\d\d/, { timeout: 60_000 });
  await accessible(page);
  // By hand: nothing takes the place of the socket, and the cable is told as lost.
  await socket.press("Enter");
  await page.keyboard.press("Home");
  await page.keyboard.press("Enter");
  await expect(
    sheet.getByText("The cable Receiver → Projector: it has no socket there any more."),
  ).toBeVisible();
  await socket.press("Enter");
  await page.keyboard.type("HDMI 2");
  await page.keyboard.press("Enter");
  await expect(sheet.getByText("it has no socket there any more")).toHaveCount(0);
  await sheet.getByRole("button", { name: "Put Orrin L5 in its place" }).press("Enter");
  await expect(sheet).toHaveCount(0);
  const row = page.locator("tr[data-device]").filter({ hasText: "Orrin L5" });
  await expect(row).toContainText("Projector");
  await expect(page.getByText("Orrin L5 stands in for Tarnbeck P2. Undo brings that back.")).toBeVisible();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^Undo/ }).click();
  await expect(page.locator("tr[data-device]").filter({ hasText: "Tarnbeck P2" })).toContainText("Projector");
});

test("a model that cannot stand there is refused with what to change first", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.getByRole("button", { name: /^Projector/ }).click();
  await page.getByRole("button", { name: "Replace …" }).click();
  await choose(page, "The new model", "Skerrow 120");
  const sheet = page.getByRole("dialog", { name: "Replace Projector by another model" });
  await expect(sheet.getByRole("alert")).toContainText("shows no picture. Choose a display.");
  await expect(sheet.getByRole("button", { name: "Put Skerrow 120 in its place" })).toBeDisabled();
  await page.setViewportSize({ width: 390, height: 844 });
  await accessible(page);
});
