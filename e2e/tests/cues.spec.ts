import { accessible, expect, opened, room, test } from "./server";

test("a film from arrival through pause and credits to the way out at night, every level right", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("4");
  await expect(page.getByRole("table", { name: "Cue sheet" })).toContainText("Disc player plays");
  await accessible(page);
  await page.getByRole("tab", { name: "An evening" }).click();
  const levels = page.getByTestId("levels");
  const moment = page.getByRole("slider", { name: "Moment of the evening" });
  const at = async (minute: number, expected: string) => {
    await moment.fill(String(minute * 60_000));
    await expect(levels).toContainText(expected);
  };
  await at(9, "20:09Ceiling 60 %Walls 40 %Steps 40 %Shelf 30 %");
  await at(30, "20:30Ceiling 0 %Walls 0 %Steps 10 %Shelf 0 %");
  await at(42, "20:42Ceiling 10 %Walls 20 %Steps 30 %Shelf 10 %");
  await at(97, "21:37Ceiling 20 %Walls 20 %Steps 30 %Shelf 20 %");
  await at(106, "21:46Ceiling 20 %Walls 0 %Steps 40 %Shelf 0 %");
  await at(119, "21:59Ceiling 0 %Walls 0 %Steps 0 %Shelf 0 %");
  await expect(page.getByRole("table", { name: "What fired" })).toContainText(
    "did not fire: it is dark outside",
  );
  await accessible(page);

  // At noon nobody needs the way out: it goes dark at once.
  await page.getByRole("slider", { name: "Time of the day" }).fill("720");
  await at(106, "13:46Ceiling 0 %Walls 0 %Steps 0 %Shelf 0 %");

  // A logarithmic lamp gives 3 % of its light at half its level.
  await page.getByRole("combobox", { name: "What is drawn" }).selectOption("light");
  await at(9, "Ceiling 6 %");
  // By voice, the streamer says nothing, and no cue comes.
  await page.getByRole("combobox", { name: "Activity" }).click();
  await page.getByRole("option", { name: "Streaming" }).click();
  const fired = page.getByRole("table", { name: "What fired" });
  await expect(fired).toContainText("Streamer is sent “Play”");
  await page.getByRole("combobox", { name: "How playback is started" }).selectOption("voice");
  await expect(fired).not.toContainText("Streamer is sent “Play”");

  // The course is changed act by act: somebody dims the walls by hand, and that holds until the next cue.
  await page.getByRole("combobox", { name: "How playback is started" }).selectOption("our-key");
  await moment.fill(String(12 * 60_000));
  await page
    .getByRole("combobox", { name: "Add what happens" })
    .selectOption({ label: "Walls set to 100 % by hand" });
  await page.getByRole("combobox", { name: "What is drawn" }).selectOption("level");
  await at(13, "Walls 100 %");
  await page.getByRole("button", { name: "Take away: Walls set to 100 % by hand" }).click();
  await expect(levels).not.toContainText("Walls 100 %");
  await page.getByRole("button", { name: "The usual course" }).click();

  await page.getByRole("tab", { name: "Ways of starting" }).click();
  const ways = page.getByRole("table", { name: "Ways of starting" });
  await expect(ways.locator('[data-way="voice"]').first()).toContainText("nothing.");
  await accessible(page);
});

test("a zone, a look and a cue from nothing; a note is accepted with a reason and comes back", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("4");
  await room(page, "Chart Loft");
  await page.getByRole("tab", { name: "Zones and looks" }).click();
  await page.getByRole("button", { name: "Add look" }).click();
  await expect(page.getByText("Look added.")).toBeVisible();
  const name = page.getByRole("textbox", { name: "Name of the look" }).last();
  await name.fill("Reading");
  await name.press("Enter");
  await expect(page.getByText("Look saved.")).toBeVisible();
  const lamps = page.getByRole("spinbutton", { name: "Reading: Loft lamps in percent" });
  await lamps.fill("120");
  await lamps.press("Enter");
  await expect(page.getByText("Level: lies between 0 and 100 %.")).toBeVisible();
  await lamps.fill("3");
  await lamps.press("Enter");
  await expect(page.getByRole("complementary", { name: "Notes in the margin" })).toContainText(
    "Reading sets Loft lamps to 3 %: below 5 % its lamp drops out.",
  );
  await accessible(page);

  // A new cue is nothing until it is saved, and can be thrown away.
  await page.getByRole("button", { name: "Add cue" }).click();
  const fresh = page.getByRole("region", { name: "New cue" });
  await fresh.getByRole("button", { name: "Throw it away" }).click();
  await expect(fresh).toHaveCount(0);
  await page.getByRole("button", { name: "Add cue" }).click();
  const form = fresh.getByRole("form", { name: "Cue" });
  await form.getByRole("combobox", { name: "Kind of moment" }).selectOption("clock");
  await form.getByRole("textbox", { name: "Time of the day" }).fill("21:15");
  await form.getByRole("button", { name: "Provided" }).click();
  await form.getByRole("combobox", { name: "What the light does" }).selectOption({ label: "Reading" });
  await form.getByRole("button", { name: "Save cue" }).click();
  const sheet = page.getByRole("table", { name: "Cue sheet" });
  await expect(sheet.locator('[data-cue="21:15"]')).toContainText("dark outside");
  await expect(sheet.locator('[data-cue="21:15"]')).toContainText("3 %");
  await accessible(page);

  const margin = page.getByRole("complementary", { name: "Notes in the margin" });
  const note = margin
    .getByRole("listitem")
    .filter({ hasText: "Below the lamp’s floor" })
    .or(margin.getByRole("listitem").filter({ hasText: "Below the lamp's floor" }));
  await note.getByRole("button", { name: "Accept" }).click();
  await note.getByRole("textbox", { name: "Why is it no trouble here?" }).fill("These lamps go down to 1 %.");
  await note.getByRole("button", { name: "Accept" }).click();
  await expect(margin.getByText("Accepted (1)")).toBeVisible();
  await margin.getByText("Accepted (1)").click();
  await expect(margin).toContainText("Accepted: These lamps go down to 1 %.");
  await margin.getByRole("button", { name: "Take it back" }).click();
  await expect(margin.getByText("Accepted (1)")).toHaveCount(0);
});

test("in the rehearsal room the light follows playback, holds what a hand sets, and lights the way out", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("r");
  await room(page, "Chart Loft");
  await page.getByRole("button", { name: "10 ×" }).click();
  await page.getByRole("button", { name: "Loft film", exact: true }).click();
  const lamps = page.locator('[data-standing="Loft dimmer"]');
  await expect(lamps).toContainText("50 %", { timeout: 20_000 });
  // Somebody starts the film with the maker's own remote.
  await page.getByRole("button", { name: "Loft streamer", exact: true }).click();
  await page.getByRole("button", { name: "Play", exact: true }).first().click();
  await expect(page.getByTestId("zones")).toContainText("Loft lamps0 %", { timeout: 20_000 });
  await expect(lamps).toContainText("0 %", { timeout: 20_000 });
  await page.getByRole("button", { name: "Loft streamer", exact: true }).click();
  await page.getByRole("button", { name: "Loft dimmer", exact: true }).click();
  await page.getByRole("button", { name: "60 % on the wall" }).click();
  await expect(page.getByTestId("zones")).toContainText("Loft lamps60 %", { timeout: 20_000 });
  await page.getByRole("button", { name: "Finish" }).click();
  await expect(lamps).toContainText("35 %", { timeout: 20_000 });
  await expect(page.getByRole("list", { name: "Cues that fired last" })).toContainText("finish fired");
  await accessible(page);
});
