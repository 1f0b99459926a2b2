import { execFile } from "node:child_process";
import { promisify } from "node:util";
import { expect, opened, test } from "./server";

const run = promisify(execFile);

/** What a reader of the paper sees, as another program reads it. */
async function textOf(pdf: Buffer, path: string): Promise<string> {
  const { writeFile } = await import("node:fs/promises");
  await writeFile(path, pdf);
  return (await run("pdftotext", ["-layout", path, "-"])).stdout;
}

const VIEWS: Record<string, string[]> = {
  kit: ["Disc player", "Wiring", "Plan", "Addresses", "Records", "Models"],
  codes: ["Power on"],
  sequences: ["Screen", "Proof", "Switch matrix", "Order", "Favourites", "Whole house"],
  cues: ["Disc player", "evening", "Ways", "Zones"],
  surfaces: ["Hall phone", "old remotes", "phones", "names"],
  rehearse: ["The runtime takes the room", "step", "Stories", "Trials", "Calls"],
  handover: ["can be timed", "tests are done", "Handovers", "Save as CSV", "client says"],
};

for (const [stage, views] of Object.entries(VIEWS)) {
  test(`${stage} on paper: each view has its head, its text and numbered pages, in either theme`, async ({
    page,
    kestrel,
  }, info) => {
    await opened(page, kestrel);
    const home = page.url().replace(/\/kit$/, "");
    await page.goto(`${home}/${stage}`);
    const tabs = page.locator("main [role=tablist]").first().getByRole("tab");
    const count = views.length;
    if (count > 1) await expect(tabs).toHaveCount(count);
    else await expect(page.getByRole("heading", { level: 2 }).first()).toBeVisible();
    for (let at = 0; at < count; at++) {
      if (count > 1) await tabs.nth(at).click();
      await page.waitForTimeout(600);
      if (at === 0) await expect(page.locator("main")).toContainText(views[0] as string);
      await page.evaluate(
        (dark) => {
          document.documentElement.dataset["theme"] = dark ? "dark" : "light";
        },
        at % 2 === 1,
      );
      const text = await textOf(await page.pdf({ preferCSSPageSize: true }), info.outputPath("paper.pdf"));
      expect(text).toMatch(/Marram Point · Boat Hall · \w+/);
      expect(text).toMatch(/\d{4}, revision \d+/);
      expect(text).toMatch(/1 ?\/ ?\d+/);
      // More than the head and the foot.
      expect(text.replace(/\s+/g, " ").length).toBeGreaterThan(150);
      if (at === 0) expect(text).toContain(views[0] as string);
      expect(text).not.toContain("Ctrl K");
      expect(text).not.toContain("Notes in the margin");
    }
  });
}

test("every code of the house is on paper, not only what is seen", async ({ page, kestrel }, info) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await page.getByRole("combobox", { name: "Where" }).click();
  await page.getByRole("option", { name: "whole house" }).click();
  await expect(page.getByText("174 of 179 have a code, 0 tested")).toBeVisible();
  const text = await textOf(await page.pdf({ preferCSSPageSize: true }), info.outputPath("codes.pdf"));
  const count = (words: RegExp) => (text.match(words) ?? []).length;
  expect(count(/no code/g)).toBe(179 - 174);
  expect(count(/decoded|captured|opaque|written|failed/g)).toBeGreaterThanOrEqual(174);
});
