import { readFileSync } from "node:fs";
import { resolve } from "node:path";
import { accessible, expect, opened, test } from "./server";

const capture = readFileSync(resolve(import.meta.dirname, "../../demo/captures/receiver-disc.txt"), "utf8");

test("captured codes become a macro that runs in a simulated room", async ({ page, kestrel }) => {
  await page.goto(kestrel.home);
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Marram Point ▸ Boat Hall");
  const margin = page.getByRole("complementary", { name: "Notes in the margin" });

  await test.step("Kit: see and edit a device and a cable", async () => {
    await expect(page.getByText("13 devices, 6 cables")).toBeVisible();
    await accessible(page);
    await page.getByRole("button", { name: /^Projector/ }).click();
    const form = page.getByRole("form", { name: "Projector" });
    const longest = form.getByLabel("From on until picture or sound: longest, in seconds");
    await longest.fill("31,5");
    await form.getByRole("button", { name: "Save" }).click();
    await expect(page.getByText("Tarnbeck P2: longest time 29.4 s → 31.5 s")).toBeVisible();
    await longest.fill("soon");
    await form.getByRole("button", { name: "Save" }).click();
    await expect(form.getByText("Seconds, such as 12 or 29.4.")).toBeVisible();
    await form.getByRole("button", { name: "Put back" }).click();
    await expect(longest).toHaveValue("31.5");
    await accessible(page);
    await form.getByRole("button", { name: "Close" }).click();

    const socket = page.getByRole("combobox", { name: "What is plugged into HDMI 3 of Projector" });
    await socket.click();
    await page.getByRole("option", { name: "nothing" }).click();
    await expect(margin.getByText("No cable brings the picture of Disc player to Projector.")).toBeVisible();
    await page.getByRole("button", { name: /^Undo: Removed the cable/ }).click();
    await expect(socket).toHaveText("Receiver · Monitor out");
    await expect(margin.getByText("No cable brings the picture")).toHaveCount(0);
  });

  await test.step("Codes: paste a capture, read it, save it", async () => {
    // Notes of the other stages are a line each, which opens.
    await margin.locator("summary", { hasText: "Codes" }).click();
    await margin.getByRole("button", { name: "Show in Codes" }).click();
    const panel = page.getByRole("region", { name: "Disc of Receiver" });
    const box = panel.getByRole("textbox", { name: /^Capture/ });
    await box.fill("+9,5 -4,5");
    await expect(panel.getByRole("alert")).toContainText("multiply by 1000");
    await expect(box).toHaveValue("+9,5 -4,5");
    await expect(panel.getByRole("button", { name: "Save code" })).toBeDisabled();
    await box.fill(capture);
    await expect(panel.getByText("Read as nec-ext address=31249 command=49")).toBeVisible();
    await expect(panel.getByRole("img", { name: /read as nec-ext with 32 bits/ })).toBeVisible();
    await expect(panel.getByText("1 stray blip was taken out")).toBeVisible();
    await accessible(page);
    await panel.getByRole("button", { name: "Save code" }).click();
    await expect(page.getByRole("button", { name: "Disc of Receiver: decoded" })).toBeVisible();
    await expect(page.getByText("43 of 44 have a code, 0 tested")).toBeVisible();
  });

  await test.step("Codes: send once to a device in the same room", async () => {
    await page.getByRole("button", { name: "Power on of Receiver: decoded" }).click();
    await expect(page.getByRole("region", { name: "Power on of Receiver" })).toContainText("Read as nec-ext");
    await page.keyboard.press("t");
    await expect(page.getByText("Sent. Receiver: starting up.")).toBeVisible();
  });

  await test.step("Sequences: the plan is derived", async () => {
    await page.keyboard.press("3");
    await page.getByRole("button", { name: /^Everything settled/ }).click();
    await expect(page.getByText(/ready in 0:39\.3/)).toBeVisible();
    const plan = page.getByRole("img", {
      name: /^Plan: 9 commands to 4 devices, ready after 0:39\.3, bound 0:39\.3/,
    });
    await expect(plan).toBeVisible();
    await expect(page.getByRole("cell", { name: "starting up · ≤ 18 s, assumed" })).toBeVisible();
    await accessible(page);
  });

  await test.step("Rehearse: the macro runs and the room is ready", async () => {
    await page.getByRole("main").getByRole("button", { name: "Rehearse" }).click();
    await page.getByRole("button", { name: "Start over" }).click();
    await page.getByRole("button", { name: "10 ×" }).click();
    await page.getByRole("button", { name: "Feature film", exact: true }).click();
    await expect(page.getByText("Keep clear: the screen is going down")).toBeVisible();
    const run = page.getByTestId("run");
    await expect(run).toHaveAttribute("data-end", /ready|sent/, { timeout: 20_000 });
    await expect(page.getByTestId("in-truth")).toContainText("everything is as it should be");
    await expect(page.locator("[data-standing='Projector']")).toContainText("HDMI 3");
    await expect(page.locator("[data-standing='Screen']")).toContainText("100 % down");
    const wire = page.getByRole("table", { name: "Wire log" });
    await expect(wire.getByRole("row").filter({ hasText: "Projector, Power on: starting up" })).toContainText(
      "nec address=50 command=2",
    );
    await expect(page.getByRole("group", { name: /The picture comes from Disc player/ })).toBeVisible();
    await accessible(page);
  });
});

test("a capture that decodes to nothing is kept as raw timing and says why", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await page.getByRole("button", { name: "Stop of Disc player: no code" }).click();
  const file = resolve(import.meta.dirname, "../../demo/captures/unknown-key.pulse");
  await page.getByLabel("Capture file").setInputFiles(file);
  const panel = page.getByRole("region", { name: "Stop of Disc player" });
  await expect(panel.getByText("Not recognised. It opens like kaseikyo")).toBeVisible();
  await panel.getByLabel("Name of the function").fill("Halt");
  await panel.getByRole("button", { name: "Keep as raw timing" }).click();
  await expect(page.getByRole("button", { name: "Halt of Disc player: captured" })).toBeVisible();
});

test("a radio code is read, saved for a new function, and sent", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await page.getByRole("button", { name: "More" }).click();
  await page.getByRole("menuitem", { name: "Add a function …" }).click();
  const sheet = page.getByRole("dialog", { name: "Add function" });
  await sheet.getByRole("combobox", { name: "Device" }).click();
  await page.getByRole("option", { name: "Screen" }).click();
  await sheet.getByLabel("Name, as on the key").fill("Preset");
  await sheet.getByRole("button", { name: "Add function" }).click();
  const panel = page.getByRole("region", { name: "Preset of Screen" });
  await page
    .getByLabel("Capture file")
    .setInputFiles(resolve(import.meta.dirname, "../../demo/captures/screen-preset.txt"));
  await expect(
    panel.getByText(/Read as a fixed radio code, ook-24 identity=369601 key=8, \d+ % sure: 4 frames/),
  ).toBeVisible();
  await panel.getByRole("button", { name: "Save code" }).click();
  await expect(page.getByRole("button", { name: "Preset of Screen: decoded" })).toBeVisible();
  await panel.getByRole("button", { name: /^Send once/ }).click();
  await expect(panel.getByText("Sent. Screen: done.")).toBeVisible();
});

test("the table of codes is walked with the keyboard alone", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await page.getByRole("button", { name: "Power on of Disc player: decoded" }).focus();
  for (const key of ["ArrowDown", "ArrowDown", "ArrowRight", "Enter"]) await page.keyboard.press(key);
  const panel = page.getByRole("region", { name: "Play of Streamer" });
  await expect(panel.getByText("Read as rc5")).toBeVisible();
  await page.keyboard.press("l");
  await expect(panel.getByRole("textbox", { name: /^Capture/ })).toBeFocused();
  await page.keyboard.press("Escape");
  await expect(panel.getByText("Read as rc5")).toBeVisible();
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keys" })).toBeVisible();
  await accessible(page);
  await page.keyboard.press("Escape");
  await page.keyboard.press("Control+k");
  await page.keyboard.type("receiver mute");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("region", { name: "Mute of Receiver" })).toBeVisible();
});

test("an activity is made from nothing, and removed", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("3");
  await page.getByRole("button", { name: "Add", exact: true }).click();
  const sheet = page.getByRole("dialog", { name: "Add activity" });
  await sheet.getByRole("button", { name: "Add activity" }).click();
  await expect(sheet.getByRole("alert")).toContainText("Still missing: a name.");
  await sheet.getByLabel("Name").fill("Records");
  await sheet.getByRole("combobox", { name: "Seen on" }).click();
  await page.getByRole("option", { name: "nowhere" }).click();
  await accessible(page);
  await sheet.getByRole("button", { name: "Add activity" }).click();
  await expect(page.getByRole("combobox", { name: "To", exact: true })).toHaveText("Records");
  await page.getByRole("button", { name: "Edit activity" }).click();
  await page.getByRole("button", { name: "Remove activity" }).click();
  await expect(page.getByText("Removed Records")).toBeVisible();
});
