import { expect, opened, test } from "./server";

test("the page never grows beyond its window, however long a form or the margin is", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  const longer = () => page.evaluate(() => document.documentElement.scrollHeight - window.innerHeight);
  await expect(
    page.getByRole("complementary", { name: "Notes in the margin" }).getByRole("listitem").first(),
  ).toBeVisible();
  expect(await longer()).toBe(0);
  await page.getByRole("button", { name: /^Receiver/ }).click();
  await page
    .getByRole("form", { name: "Receiver" })
    .getByText("Volume, settings, channels, feedback")
    .click();
  expect(await longer()).toBe(0);
});
