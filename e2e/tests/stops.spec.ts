import { accessible, expect, opened, test } from "./server";

test("a stop of a masking screen is described, chosen for an activity, and driven to", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.getByRole("button", { name: /^Screen/ }).click();
  const form = page.getByRole("form", { name: "Screen" });
  const pick = async (label: string, option: string) => {
    await form.getByRole("combobox", { name: label, exact: true }).click();
    await page.getByRole("option", { name: option, exact: true }).click();
  };

  await test.step("Kit: a key that does something else already is refused", async () => {
    await form
      .getByRole("heading", { name: "Stops between its ends" })
      .locator("..")
      .getByRole("button", { name: "Add a line" })
      .click();
    await form.getByRole("textbox", { name: "Stop", exact: true }).fill("Scope");
    await form.getByLabel("How far down (%)").fill("70");
    await pick("Key", "Stop");
    await accessible(page);
    await form.getByRole("button", { name: "Save" }).click();
    await expect(form.getByRole("alert")).toContainText(
      "does something else already. Choose a key of its own.",
    );
    await expect(form.getByRole("textbox", { name: "Stop", exact: true })).toHaveValue("Scope");
  });

  await test.step("Kit: with a key of its own it is saved", async () => {
    await pick("Stop", "there is none");
    await form.getByRole("button", { name: "Save" }).click();
    await expect(form.getByRole("alert")).toHaveCount(0);
    await expect(form.getByRole("button", { name: "Save" })).toBeDisabled();
  });

  await test.step("Sequences: the activity goes to it, and the plan says so", async () => {
    await page.getByRole("heading", { name: "Kit" }).click();
    await page.keyboard.press("3");
    await page.getByRole("combobox", { name: "To", exact: true }).click();
    await page.getByRole("option", { name: "Streaming", exact: true }).click();
    await page.getByRole("button", { name: "Edit activity" }).click();
    const sheet = page.getByRole("dialog", { name: "Edit activity" });
    await sheet.getByRole("combobox", { name: "Screen goes" }).click();
    await page.getByRole("option", { name: "to “Scope”, 70 % down" }).click();
    await accessible(page);
    await sheet.getByRole("button", { name: "Save" }).click();
    await expect(sheet).toHaveCount(0);
  });

  await test.step("Kit: a stop that is in use is not removed", async () => {
    await page.keyboard.press("1");
    await page.getByRole("button", { name: /^Screen/ }).click();
    await form.getByRole("button", { name: "Remove stop 1" }).click();
    await form.getByRole("button", { name: "Save" }).click();
    await expect(form.getByRole("alert")).toContainText("“Streaming” moves Screen to “Scope”.");
    await form.getByRole("button", { name: "Put back" }).click();
  });

  await test.step("Rehearse: the screen stands there", async () => {
    await page.getByRole("heading", { name: "Kit" }).click();
    await page.keyboard.press("r");
    await page.getByRole("button", { name: "10 ×" }).click();
    await page.getByRole("button", { name: "Streaming", exact: true }).click();
    const run = page.getByTestId("run");
    await expect(run).toHaveAttribute("data-end", /ready|sent/, { timeout: 30_000 });
    await expect(page.getByTestId("in-truth")).toContainText("everything is as it should be");
    await expect(page.locator("[data-standing='Screen']")).toContainText("70 % down");
    await page.getByRole("button", { name: "Finish" }).click();
    await expect(page.locator("[data-standing='Screen']")).toContainText(/(^|\D)0 % down/, {
      timeout: 30_000,
    });
  });
});

test("a height is kept as a position, an activity asks for it, and the screen stops there by time", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);

  await test.step("Plan: the stop height becomes a position of this screen", async () => {
    await page.getByRole("tab", { name: "Plan" }).click();
    await page.getByRole("button", { name: "Picture" }).click();
    await page.getByLabel("Bottom edge above the floor").fill("84 cm");
    await page.getByLabel("Bottom edge above the floor").press("Enter");
    await expect(page.getByTestId("stop-height")).toContainText("Stop at 82 % of the way");
    await page.getByLabel("Keep this height as").fill("Scope");
    await page.getByLabel("Keep this height as").press("Enter");
    await expect(page.getByRole("list", { name: "Positions of this screen" })).toContainText(
      /“Scope”: 82 % down, stopped 18\.\d s after the upper limit, ± \d/,
    );
    await accessible(page);
  });

  await test.step("Sequences: the plan stops it on its way, and is proved", async () => {
    await page.getByRole("heading", { name: "Kit" }).click();
    await page.keyboard.press("3");
    await page.getByRole("combobox", { name: "To", exact: true }).click();
    await page.getByRole("option", { name: "Streaming", exact: true }).click();
    await page.getByRole("button", { name: "Edit activity" }).click();
    const sheet = page.getByRole("dialog", { name: "Edit activity" });
    await sheet.getByRole("combobox", { name: "Screen goes" }).click();
    await page.getByRole("option", { name: "to “Scope”, 82 % down" }).click();
    await sheet.getByRole("button", { name: "Save" }).click();
    await expect(sheet).toHaveCount(0);
    await expect(page.getByRole("table").filter({ hasText: "Stop" }).first()).toContainText("Down");
    await expect(page.getByText(/^At risk/)).toHaveCount(0);
  });

  await test.step("Rehearse: it stands there, within its spread", async () => {
    await page.keyboard.press("r");
    await page.getByRole("button", { name: "10 ×" }).click();
    await page.getByRole("button", { name: "Streaming", exact: true }).click();
    const run = page.getByTestId("run");
    await expect(run).toHaveAttribute("data-end", /ready|sent/, { timeout: 30_000 });
    await expect(page.locator("[data-standing='Screen']")).toContainText(/(7[89]|8\d) % down/);
  });
});
