import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import { accessible, expect, opened, room as inRoom, test } from "./server";

/** Goes to Sequences of a room. */
async function sequences(page: Page, room: string): Promise<void> {
  await page.keyboard.press("3");
  await expect(page.getByRole("tab", { name: "Switch matrix" })).toBeVisible();
  await inRoom(page, room);
}

async function choose(page: Page, label: string, option: string | RegExp): Promise<void> {
  await page.getByRole("combobox", { name: label, exact: true }).click();
  await page.getByRole("option", { name: option, exact: typeof option === "string" }).click();
}

test("a cell at risk tells its story, and a remedy turns it certain before one's eyes", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await sequences(page, "Watch Room");
  await page.getByRole("tab", { name: "Switch matrix" }).click();
  const matrix = page.getByRole("table", { name: "Switch matrix" });
  const risky = matrix.getByRole("button", { name: /At risk/ });
  await expect(risky).toHaveCount(2);
  await accessible(page);
  await risky.last().click();
  await expect(page.getByText("At risk", { exact: true }).first()).toBeVisible();
  await page.keyboard.press("p");
  const story = page.getByRole("region", { name: "Story" });
  await expect(story).toContainText("“Power” switched it on");
  await story.getByRole("button", { name: "Next step" }).click();
  await expect(story.locator("[aria-current=step]")).toContainText("“Power” switched it on.");
  const remedies = page.getByRole("region", { name: "Remedies" });
  await expect(remedies.getByRole("row").nth(1)).toContainText("Certain");
  await accessible(page);
  await remedies
    .getByRole("button", { name: /^Apply: Give Display a code for on and one for off, and use/ })
    .click();
  await expect(page.getByText("Certain, if the waits hold").first()).toBeVisible();
  await page.getByRole("tab", { name: "Switch matrix" }).click();
  await expect(matrix.getByRole("button", { name: /At risk/ })).toHaveCount(0);
  // The look at the matrix before is remembered: what has changed is marked.
  await expect(matrix.getByText("new", { exact: true }).first()).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(matrix.getByRole("button", { name: /At risk/ })).toHaveCount(2);
});

test("the tidy room is certain; trusting plans are quicker, and the safe ones are one click away", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await sequences(page, "Bunk Cabin, tidy");
  await page.getByRole("tab", { name: "Switch matrix" }).click();
  const matrix = page.getByRole("table", { name: "Switch matrix" });
  await expect(matrix.getByRole("button", { name: /Certain/ })).toHaveCount(2);
  await choose(page, "Plans of this room", /^trusting/);
  const trusting = matrix.getByRole("button", { name: /if nobody else/ });
  await expect(trusting).toHaveCount(1);
  await trusting.press("Enter");
  await page.getByRole("button", { name: /Why, and what would help/ }).click();
  await page.getByRole("button", { name: "Apply: Use the safe plans in this room" }).click();
  await expect(page.getByRole("strong").filter({ hasText: /^Certain$/ })).toBeVisible();
});

test("the matrix is walked by keyboard alone", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("3");
  await page.getByRole("tab", { name: "Plan" }).focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("tab", { name: "Switch matrix" })).toBeFocused();
  const matrix = page.getByRole("table", { name: "Switch matrix" });
  await expect(matrix.getByRole("button").first()).toBeVisible();
  await page.keyboard.press("Tab");
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("combobox", { name: "From" })).toContainText("Feature film");
  await expect(page.getByRole("combobox", { name: "To", exact: true })).toContainText("Streaming");
  await page.getByRole("button", { name: /^Everything settled/ }).click();
  await expect(page.getByText(/ready in 0:02\.6/)).toBeVisible();
});

test("a pause made shorter by hand is a finding, spoils the proof, and is taken back", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("3");
  await page.getByRole("button", { name: "Change Source of Projector by hand" }).click();
  const form = page.getByRole("group", { name: "Source by hand" });
  await form.getByLabel("Pause before it (s)").fill("soon");
  await expect(form.getByText("Seconds, such as 12 or 0.5.")).toBeVisible();
  await form.getByLabel("Pause before it (s)").fill("10");
  await accessible(page);
  await form.getByRole("button", { name: "Set pause" }).click();
  await expect(page.getByText(/The plan: At risk$/).first()).toBeVisible();
  await expect(page.getByRole("complementary")).toContainText("Shorter than the evidence");
  const byHand = page.getByRole("region", { name: "Changed by hand" });
  await expect(byHand).toContainText("10 s before “Source” of Projector");
  await byHand.getByRole("button", { name: "Take back" }).click();
  await page.getByRole("button", { name: /^Everything settled/ }).click();
  await expect(page.getByText(/ready in 0:39\.3/)).toBeVisible();
  await expect(byHand).toHaveCount(0);
});

test("what was seen leads to causes, and to the check that tells them apart", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("3");
  await page.getByRole("tab", { name: "Proof" }).click();
  await page.getByText("What was seen? Find the cause").click();
  await choose(page, "A picture", "no");
  await choose(page, "Sound", "yes");
  const answer = page.getByRole("status").filter({ hasText: "Next:" });
  await expect(answer).toContainText("Projector", { timeout: 60_000 });
  await accessible(page);
  await page.getByText(/^Other hands:/).click();
  await expect(page.getByText("its own power button was pressed").first()).toBeVisible();
});

test("rules of the order, both schools, favourites, and the whole house", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("3");
  await page.getByRole("tab", { name: "Order and couplings" }).click();
  await choose(page, "Commands to", "Receiver");
  await choose(page, "go", "last");
  await page.getByRole("button", { name: "Add rule" }).click();
  await expect(page.getByText("Receiver last, when an activity starts")).toBeVisible();
  await expect(page.getByRole("region", { name: "Two schools" })).toContainText("left on and followed");
  await accessible(page);
  await page.getByRole("button", { name: /^Remove the rule: Receiver last/ }).click();
  await expect(page.getByText("Receiver last, when an activity starts")).toHaveCount(0);
  await page.getByRole("tab", { name: "Whole house" }).click();
  await expect(page.getByText(/\d+ transmissions, all off after/)).toBeVisible();
  await page.getByRole("checkbox", { name: "Boat Hall" }).uncheck();
  await expect(page.getByRole("cell", { name: "Projector", exact: true })).toHaveCount(0);
  await page.getByRole("button", { name: "Prove all rooms" }).click();
  const proof = page.getByRole("region", { name: "Proof of the house" });
  await expect(proof.getByRole("rowheader", { name: "Bunk Cabin, tidy" })).toBeVisible();
  await accessible(page);
  await sequences(page, "Watch Room");
  await page.getByRole("tab", { name: "Favourites" }).click();
  await expect(page.getByText("Tuner: 4")).toBeVisible();
});

test("what comes with an activity is typed, checked and sent", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await sequences(page, "Watch Room");
  await page.getByRole("button", { name: "Edit activity" }).click();
  const sheet = page.getByRole("dialog");
  await sheet.getByLabel(/^Start volume/).fill("99");
  await sheet.getByRole("button", { name: "Save" }).click();
  await expect(sheet.getByRole("alert")).toContainText("99 is above the ceiling of 28");
  await sheet.getByLabel(/^Start volume/).fill("16");
  await sheet.getByRole("button", { name: "Add favourite" }).click();
  await sheet.getByLabel("Name of favourite 4").fill("Regatta");
  await sheet.getByLabel("Number of favourite 4").fill("12a");
  await sheet.getByRole("button", { name: "Save" }).click();
  await expect(sheet.getByRole("alert")).toContainText("“12a” is no channel number");
  await sheet.getByLabel("Number of favourite 4").fill("12");
  await accessible(page);
  await sheet.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("cell", { name: "It starts at volume 16." })).toHaveCount(2);
  await expect(page.getByRole("cell", { name: "Volume up", exact: true })).toHaveCount(2);
  await page.getByRole("tab", { name: "Favourites" }).click();
  await expect(page.getByRole("listitem").filter({ hasText: "Regatta" })).toContainText("3 presses");
  await page.getByRole("button", { name: "Edit activity" }).click();
  await sheet.getByRole("button", { name: "Duplicate" }).click();
  await expect(page.getByRole("combobox", { name: "To", exact: true })).toContainText("Television 2");
});

test("keys are pressed on the machine of a device, and the step sheet is saved", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page
    .getByRole("button", { name: /^Projector/ })
    .first()
    .click();
  await page.getByRole("tab", { name: "Press its keys" }).click();
  await choose(page, "It starts", "on, input HDMI 2");
  const keys = page.getByRole("group", { name: "Keys of Projector" });
  await keys.getByRole("button", { name: "Source" }).click();
  await expect(page.getByText("on, input HDMI 2, its list open at HDMI 1").first()).toBeVisible();
  await keys.getByRole("button", { name: "Source" }).click();
  await accessible(page);
  await page.keyboard.press("3");
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "Step sheet (CSV)" }).click(),
  ]);
  const sheet = await readFile(await download.path(), "utf8");
  expect(sheet.split("\r\n")[0]).toBe(
    "step,start_ms,device,command,medium,then_wait_ms,why,house,room,as_of",
  );
  expect(sheet).toContain("Projector,Power on");
});
