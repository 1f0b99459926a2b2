import { accessible, expect, opened, test } from "./server";

const STAGES = ["kit", "codes", "sequences", "cues", "surfaces", "rehearse", "handover"];

for (const [width, height] of [
  [390, 844],
  [768, 1024],
] as const) {
  test(`every view at ${width} by ${height}: nothing scrolls sideways, and axe finds nothing`, async ({
    browser,
    kestrel,
  }) => {
    test.setTimeout(300_000);
    const context = await browser.newContext({ viewport: { width, height }, hasTouch: true, isMobile: true });
    const page = await context.newPage();
    await opened(page, kestrel);
    for (const stage of STAGES) {
      // The stages are a menu here, the one on the table in it.
      await page.getByRole("button", { name: /^Stage: / }).tap();
      await page.getByRole("menuitem", { name: new RegExp(`^${stage}`, "i") }).tap();
      await expect(page).toHaveURL(new RegExp(`/${stage}`));
      const tabs = page.locator("main [role=tablist]").first().getByRole("tab");
      if (stage === "codes") await expect(page.getByRole("grid")).toBeVisible();
      else await expect(tabs.first()).toBeVisible();
      const count = await tabs.count();
      for (let at = 0; at < Math.max(1, count); at++) {
        if (count > 0) await tabs.nth(at).tap();
        await page.waitForTimeout(400);
        const beyond = await page.evaluate(() => {
          const main = document.querySelector("main");
          const root = document.documentElement;
          return [root.scrollWidth, window.innerWidth, (main?.scrollWidth ?? 0) - (main?.clientWidth ?? 0)];
        });
        expect(beyond, `${stage} ${at}`).toEqual([width, width, 0]);
      }
      await accessible(page);
    }
    await context.close();
  });
}

test("on a phone the notes lie over the table, what is touched is 44 px high, and a device is opened", async ({
  browser,
  kestrel,
}) => {
  const context = await browser.newContext({
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
  });
  const page = await context.newPage();
  await opened(page, kestrel);
  await page.getByRole("button", { name: /^Notes in the margin/ }).tap();
  const margin = page.getByRole("complementary", { name: "Notes in the margin" });
  await expect(margin.getByText("Nobody measured it").first()).toBeVisible();
  await margin.getByRole("button", { name: "What is this stage for" }).tap();
  await expect(margin.getByText("Why a toggle is trouble")).toBeVisible();
  await accessible(page);
  await margin.getByRole("button", { name: "Fold the notes away" }).tap();
  await expect(margin).toBeHidden();
  const add = await page.getByRole("button", { name: "Add device" }).boundingBox();
  expect(add?.height).toBeGreaterThanOrEqual(44);
  await page.getByRole("button", { name: /^Receiver/ }).tap();
  const form = page.getByRole("form", { name: "Receiver" });
  const frame = await form.boundingBox();
  expect(frame && frame.x >= 0 && frame.x + frame.width <= 390).toBe(true);
  await context.close();
});
