import { accessible, expect, opened, test } from "./server";
import type { Page } from "@playwright/test";

const row = (page: Page, name: string) =>
  page
    .getByRole("region", { name: /reaches$/ })
    .getByRole("row")
    .filter({ hasText: name });

async function plan(page: Page, kestrel: Parameters<typeof opened>[1]) {
  await opened(page, kestrel);
  await page.getByRole("tab", { name: "Plan" }).click();
  await expect(page.getByRole("group", { name: /^Plan, 6\.40 by 4\.20 m/ })).toBeVisible();
}

test("what a gateway reaches is on the plan, and a lead reaches what is behind the door", async ({
  page,
  kestrel,
}) => {
  await plan(page, kestrel);
  await expect(page.getByTestId("field")).toBeAttached();
  await expect(row(page, "Receiver")).toContainText(/\d+ dB/);
  await expect(row(page, "Amplifier")).toContainText("behind the door or the wall of Cupboard");
  await page.getByRole("button", { name: "A lead on its window, for Amplifier" }).click();
  await expect(row(page, "Amplifier")).toContainText("by a lead");
  await accessible(page);
  await page.keyboard.press("Control+z");
  await expect(row(page, "Amplifier")).toContainText("behind the door");
});

test("a device is moved by arrows and by dragging, and undo puts it back", async ({ page, kestrel }) => {
  await plan(page, kestrel);
  const receiver = page.getByRole("button", { name: /^Receiver.*arrows move it/ });
  await receiver.focus();
  const left = page.getByLabel("From the left");
  await expect(left.first()).toHaveValue("1.70 m");
  await page.keyboard.press("ArrowLeft");
  await expect(left.first()).toHaveValue("1.65 m");
  await page.keyboard.press("Shift+ArrowLeft");
  await expect(left.first()).toHaveValue("1.15 m");
  const frame = await receiver.locator("rect").nth(1).boundingBox();
  if (!frame) throw new Error("the receiver is not drawn");
  const [x, y] = [frame.x + frame.width / 2, frame.y + frame.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 40, y + 90, { steps: 5 });
  await page.mouse.up();
  await expect(left.first()).not.toHaveValue("1.15 m");
  await page.keyboard.press("Control+z");
  await expect(left.first()).toHaveValue("1.15 m");
  await left.first().fill("wide");
  await left.first().press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "That is no length" })).toBeVisible();
});

test("the cheapest set of gateways has a price and a proof, and is one step", async ({ page, kestrel }) => {
  await plan(page, kestrel);
  await page.getByRole("button", { name: "Gateways" }).click();
  await page.getByRole("button", { name: "Find the cheapest set" }).click();
  const set = page.getByTestId("gateway-set");
  await expect(set).toContainText("reaches everything; no set is cheaper");
  await page.getByRole("button", { name: "Put them into the house" }).click();
  await expect(page.getByRole("button", { name: /^Boat Hall box/ })).toBeVisible();
  await accessible(page);
  await page.keyboard.press("Control+z");
  await expect(page.getByRole("button", { name: /^Boat Hall box/ })).toHaveCount(0);
});

test("the picture says what each seat sees, and where the screen stops", async ({ page, kestrel }) => {
  await plan(page, kestrel);
  await page.getByRole("button", { name: "Picture" }).click();
  await expect(page.getByTestId("throw")).toContainText("It fits.");
  await expect(page.getByRole("table", { name: "Seats" }).getByRole("row")).toHaveCount(6);
  await expect(page.getByTestId("stop-height")).toContainText("All the way down");
  await page.getByLabel("Bottom edge above the floor").fill("84 cm");
  await page.getByLabel("Bottom edge above the floor").press("Enter");
  await expect(page.getByTestId("stop-height")).toContainText(/Stop at 82 % of the way, 18\.\d s after/);
  await page.getByLabel("feet and inches").check();
  await expect(page.getByLabel("Bottom edge above the floor")).toHaveValue("2 ft 9 in");
  await accessible(page);
});

test("a device behind the cloth is cut off, and the plans follow", async ({ page, kestrel }) => {
  await plan(page, kestrel);
  await page.getByRole("button", { name: /^Disc player.*arrows move it/ }).focus();
  const form = page.getByRole("region", { name: "Where Disc player stands" });
  const type = async (label: string, value: string) => {
    // Each edit is made of what the one before has left: it is waited for.
    await form.getByLabel(label).fill(value);
    await form.getByLabel(label).press("Enter");
    await expect(form.getByLabel(label)).toHaveValue(value);
  };
  await type("From the left", "0.02 m");
  await type("From the top", "2.10 m");
  await type("Height of its middle", "1.20 m");
  await type("Looks to, in degrees", "0");
  await expect(row(page, "Disc player")).toContainText(/\d+ dB/);
  await page.getByLabel("Screen down").check();
  await expect(row(page, "Disc player")).toContainText("behind Screen");
  await page.getByRole("heading", { name: "Kit" }).click();
  await page.keyboard.press("3");
  await page.getByRole("combobox", { name: "To", exact: true }).click();
  await page.getByRole("option", { name: "Feature film", exact: true }).click();
  // It is told while the screen is up; where the screen stays down, that it cannot be told is a risk.
  const steps = page.getByRole("row").filter({ hasText: /Disc player\s*Power on|Screen\s*Down/ });
  await expect(steps.first()).toContainText("Disc player");
  await expect(page.getByRole("complementary", { name: "Notes in the margin" })).toContainText(
    "a lowered screen kept it off",
  );
});

test("what the room has besides walls is edited, and cables have a length", async ({ page, kestrel }) => {
  await plan(page, kestrel);
  await expect(page.getByRole("region", { name: "Cables" })).toContainText(/Receiver → Projector\d+\.\d\d m/);
  await page.getByText(/^The room: sides/).click();
  const lamps = page.getByRole("region", { name: "Lamps and daylight" });
  await lamps.getByLabel("Daylight on the screen wall, lx").fill("300");
  await lamps.getByLabel("Daylight on the screen wall, lx").press("Enter");
  const spots = page.getByRole("region", { name: "Spots for gateways" });
  await spots.getByRole("button", { name: "Add a spot" }).click();
  await expect(spots.getByLabel("Name")).toHaveCount(3);
  const place = page.getByRole("region", { name: "The place of the room in the house" });
  await place.getByLabel("Storey").fill("1");
  await expect(place.getByRole("img", { name: /^Storey 1: Boat Hall/ })).toBeVisible();
  await accessible(page);
});

test("a room without a plan is drawn from its three sides", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  const heading = page.getByRole("heading", { level: 1 });
  for (const room of ["Watch Room", "Slip Deck"]) {
    await page.keyboard.press("]");
    await expect(heading).toHaveText(`Marram Point ▸ ${room}`);
  }
  await page.getByRole("tab", { name: "Plan" }).click();
  await expect(page.getByText("This room has no plan.")).toBeVisible();
  await page.getByRole("button", { name: "Draw the room" }).click();
  await expect(page.getByRole("alert")).toContainText("lies between 1.00 m and 60.00 m");
  await page.getByLabel("Length", { exact: true }).fill("5.2");
  await page.getByLabel("Width", { exact: true }).fill("4");
  await page.getByLabel("Width", { exact: true }).press("Enter");
  await page.getByRole("button", { name: "Draw the room" }).click();
  await expect(page.getByRole("group", { name: /^Plan, 5\.20 by 4\.00 m/ })).toBeVisible();
  await page.getByRole("button", { name: "Place Deck display" }).click();
  await expect(page.getByRole("button", { name: /^Deck display.*arrows move it/ })).toBeVisible();
});
