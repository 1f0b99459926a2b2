import type { BrowserContext, Page } from "@playwright/test";
import { accessible, expect, opened, room, test } from "./server";

/** A surface of the room that is open, on a phone behind a link of its own. */
async function linked(
  page: Page,
  context: BrowserContext,
  kestrel: { url: string },
  whose: string,
): Promise<Page> {
  await page.getByRole("tab", { name: "On phones" }).click();
  await page.getByRole("textbox", { name: "Whose link" }).fill(whose);
  await page.getByRole("button", { name: "Make a link" }).click();
  const link = page.getByRole("table", { name: "Links" }).getByRole("link");
  const address = await link.getAttribute("href");
  const phone = await context.newPage();
  await phone.setViewportSize({ width: 390, height: 844 });
  await phone.goto(`${kestrel.url}${address}`);
  return phone;
}

test("a phone for the Watch Room from nothing: laid out, linked, opened at 390 by 844, and it drives the room", async ({
  page,
  context,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("5");
  await room(page, "Watch Room");
  await expect(page.getByText("Nothing to press in this room yet.")).toBeVisible();
  await accessible(page);
  await page.getByRole("button", { name: "Add a phone" }).click();
  await expect(page.getByText("Phone laid out from the activities of the room.")).toBeVisible();
  await page.getByRole("radio", { name: "Television" }).click();
  const keys = page.getByRole("table", { name: "Keys of Television" });
  await expect(keys).toContainText("what sounds 1 step louder");
  await expect(keys).toContainText("Tuner “Channel up”");
  await accessible(page);

  await page.getByRole("tab", { name: "On phones" }).click();
  await page.getByRole("textbox", { name: "Whose link" }).fill("Kitchen phone");
  await page.getByRole("button", { name: "Make a link" }).click();
  const link = page.getByRole("table", { name: "Links" }).getByRole("link");
  const address = await link.getAttribute("href");
  await accessible(page);

  // The clock of the room runs ten times as fast.
  const [, house, , watch] = /houses\/([^/]+)\/(rooms)\/([^/?]+)/.exec(page.url()) ?? [];
  const rehearsal = `${kestrel.url}/api/houses/${house}/rooms/${watch}/rehearsal`;
  await page.request.post(`${rehearsal}/rate`, { data: { rate: 10 } });

  const phone = await context.newPage();
  await phone.setViewportSize({ width: 390, height: 844 });
  await phone.goto(`${kestrel.url}${address}`);
  const status = phone.getByTestId("live-status");
  await expect(status).toHaveText("Everything is off");
  await expect(phone.getByRole("button", { name: "Finish" })).toHaveAttribute("aria-pressed", "true");
  for (const key of await phone.getByRole("button").all()) {
    const box = await key.boundingBox();
    expect(box && box.width >= 44 && box.height >= 44).toBeTruthy();
  }
  await accessible(phone);
  await phone.getByRole("button", { name: "Television" }).click();
  // Its page opens by itself, and the name stands where the room says what it is in.
  await expect(phone.getByRole("heading", { name: "Television" })).toBeVisible();
  await expect(status).toHaveText("Television is on");
  const view = async () => (await page.request.get(rehearsal)).json() as Promise<Room>;
  const power = async (at: number) => (await view()).devices[at]?.power;
  await expect.poll(async () => [await power(0), await power(1)]).toEqual(["on", "on"]);

  // Louder, once; then held: again and again until it is let go.
  // The sound bar makes the sound.
  const volume = async () => (await view()).devices[1]?.volume_tenths;
  const before = (await volume()) ?? 0;
  const louder = phone.getByRole("button", { name: "Louder", exact: true });
  await louder.click();
  await expect.poll(volume).toBeGreaterThan(before);
  const once = (await volume()) ?? 0;
  await louder.hover();
  await phone.mouse.down();
  await expect.poll(volume).toBeGreaterThan(once + 10);
  await phone.mouse.up();
  await phone.getByRole("button", { name: "Tideline" }).click();
  await expect
    .poll(async () => (await view()).devices.map((device) => device.playing?.app))
    .toContain("Tideline");

  await phone.getByRole("button", { name: "Finish" }).click();
  await expect(status).toHaveText("Everything is off");
  await expect.poll(() => power(0)).toBe("off");
  // What would do nothing says why. It is pressed all the same: to those who ask, it is no dead key.
  await louder.click({ force: true });
  await expect(phone.getByRole("alert")).toContainText(
    "Nothing is on now. Start something first. Call Hanne Osk",
  );
  await accessible(phone);

  await page.getByRole("button", { name: "Withdraw" }).click();
  await expect(phone.getByRole("heading", { name: "This link does not work any more" })).toBeVisible();
});

/** What the tests look at of a room. */
interface Room {
  devices: { power: string; volume_tenths?: number | null; playing?: { app?: string | null } | null }[];
}

test("a layout is edited with the keyboard, laid out anew without a loss, compared, labelled and named", async ({
  page,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("5");
  await page.getByRole("radio", { name: "Streaming" }).click();
  const grid = page.getByTestId("page-grid");
  const pause = grid.getByRole("button", { name: "Pause", exact: true });
  await pause.focus();
  await page.keyboard.press("Shift+ArrowRight");
  await expect(page.getByText("Key moved.")).toBeVisible();
  await page.keyboard.press("Enter");
  const form = page.getByRole("form", { name: "Key" });
  await form.getByRole("textbox", { name: "Label" }).fill("Hold on");
  await form.getByRole("button", { name: "Save key" }).click();
  await expect(page.getByText("“Hold on” saved.")).toBeVisible();
  await form.getByRole("button", { name: "Duplicate" }).click();
  await expect(page.getByText("“Hold on” duplicated: change one thing in it.")).toBeVisible();
  await form.getByRole("textbox", { name: "Label" }).fill("Skip four");
  await form.getByRole("spinbutton", { name: "Times" }).fill("4");
  await form.getByRole("button", { name: "Save key" }).click();
  await expect(page.getByText("“Skip four” saved.")).toBeVisible();
  await form.getByRole("spinbutton", { name: "Times" }).fill("44");
  await form.getByRole("button", { name: "Save key" }).click();
  await expect(page.getByText("Times: a command is sent 1 to 30 times.")).toBeVisible();
  await accessible(page);
  await form.getByRole("button", { name: "Close the key" }).click();
  const home = grid.getByRole("button", { name: "Its menu", exact: true });
  await home.focus();
  await page.keyboard.press("Delete");
  await expect(page.getByText("“Its menu” taken away.")).toBeVisible();
  await page.getByRole("button", { name: "Lay out anew" }).click();
  await expect(page.getByText("What was made by hand stayed.")).toBeVisible();
  await expect(grid.getByRole("button", { name: "Hold on" })).toBeVisible();
  await expect(grid.getByRole("button", { name: "Skip four" })).toBeVisible();
  await expect(grid.getByRole("button", { name: "Its menu", exact: true })).toHaveCount(0);

  await page.getByRole("tab", { name: "Against the old remotes" }).click();
  const old = page.getByRole("region", { name: "Functions of the old remotes" });
  await expect(old).toContainText("missing");
  await expect(page.getByRole("region", { name: "Guest test" })).toContainText("Feature film 2 presses");
  await accessible(page);

  await room(page, "Slip Deck");
  const hazard = page.locator("li", { hasText: "Nothing to stop it" }).first();
  await expect(hazard).toContainText(
    "Awning can be moved from “Keys” of Deck keypad and not be stopped there.",
  );
  await page.getByRole("tab", { name: "Labels" }).click();
  await expect(
    page.getByRole("img", { name: "Engraving sheet of Deck keypad, at true scale" }),
  ).toBeVisible();
  await expect(page.getByRole("region", { name: "Trial" })).toContainText("of 14 days");
  await accessible(page);

  await room(page, "Bunk Cabin");
  await page.getByRole("tab", { name: "Spoken names" }).click();
  await expect(page.getByText("4 names collide.")).toBeVisible();
  await accessible(page);
  await page.getByRole("button", { name: "Say “Bunk picture”" }).click();
  await expect(page.getByText("3 names collide.")).toBeVisible();
  await page.getByRole("button", { name: "Mark as synchronised" }).click();
  await expect(page.getByText("Nothing has changed since")).toBeVisible();
  const names = page.getByRole("textbox", { name: "Names of Reading" });
  await names.fill("Reading, book time");
  await names.press("Enter");
  await expect(page.getByText("Changed since last sync: 1 new, 0 gone.")).toBeVisible();
});

test("a hard key is found by pressing it, and does what the surface says; a client stores a look", async ({
  page,
  context,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("5");
  await room(page, "Chart Loft");
  const [, house, loft] = /houses\/([^/]+)\/rooms\/([^/?]+)/.exec(page.url()) ?? [];
  const rehearsal = `${kestrel.url}/api/houses/${house}/rooms/${loft}/rehearsal`;
  await page.request.post(`${rehearsal}/rate`, { data: { rate: 5 } });
  const press = async (name: string) => {
    const site = (await (await page.request.get(`${kestrel.url}/api/houses/${house}`)).json()) as House;
    const device = site.devices.find((known) => known.name === "Loft remote");
    const profile = site.profiles.find((known) => known.id === device?.profile);
    const key = profile?.functions.find((known) => known.name === name);
    const hand = { does: "press", device: device?.id, function: key?.id, gesture: "tap" };
    expect((await page.request.post(`${rehearsal}/hand`, { data: hand })).ok()).toBeTruthy();
  };
  await page.getByTestId("page-grid").getByRole("button", { name: "Louder" }).click();
  const form = page.getByRole("form", { name: "Key" });
  await form.getByRole("button", { name: "Identify by pressing" }).click();
  // Somebody presses until the page, which has to open its stream of events first, has seen it.
  await expect(async () => {
    await press("Right");
    await expect(form.getByRole("combobox", { name: "Hard key, face or gesture" })).toHaveValue(/.+/, {
      timeout: 1_000,
    });
  }).toPass();
  await expect(
    form.getByRole("combobox", { name: "Hard key, face or gesture" }).locator("option:checked"),
  ).toHaveText("Right");
  await form.getByRole("button", { name: "Close the key" }).click();
  await press("Hear");
  await expect
    .poll(async () => {
      const view = (await (await page.request.get(rehearsal)).json()) as {
        run?: { to: { is: string } } | null;
      };
      return view.run?.to.is;
    })
    .toBe("in");

  // A client changes the light of the hall within limits; the programmer looks it over.
  await room(page, "Boat Hall");
  const phone = await linked(page, context, kestrel, "Hall tablet");
  await phone.getByText("Each lamp").click();
  const walls = phone.getByRole("slider", { name: "Walls" });
  await walls.fill("70");
  await walls.press("ArrowRight");
  await expect(phone.getByText("71 %")).toBeVisible();
  await phone.getByRole("combobox", { name: "Keep this light as" }).selectOption("Credits");
  await phone.getByRole("button", { name: "Keep it so" }).click();
  await expect(phone.getByText("Kept. Whoever set up the room looks it over.")).toBeVisible();
  await page.keyboard.press("4");
  await page.getByRole("tab", { name: "Zones and looks" }).click();
  await expect(page.getByTestId("table").getByText("Hall tablet stored other levels")).toBeVisible();
  await page.getByRole("button", { name: "Put back Credits" }).click();
  await expect(page.getByRole("spinbutton", { name: "Credits: Walls in percent" })).toHaveValue("20");
});

test("not right: the household says so, the room is put right, and the programmer closes the call", async ({
  page,
  context,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("5");
  const [, house, hall] = /houses\/([^/]+)\/rooms\/([^/?]+)/.exec(page.url()) ?? [];
  const rehearsal = `${kestrel.url}/api/houses/${house}/rooms/${hall}/rehearsal`;
  await page.request.post(`${rehearsal}/rate`, { data: { rate: 10 } });

  const phone = await linked(page, context, kestrel, "Kitchen phone");
  const status = phone.getByTestId("live-status");
  // What is not set up says so before anybody presses it.
  await expect(phone.getByRole("button", { name: "Feature film" })).toContainText("not set up yet");
  await phone.getByRole("button", { name: "Feature film" }).click();
  const fault = phone.getByRole("alert");
  await expect(fault).toContainText("Call Hanne Osk");
  await accessible(phone);
  // It stays until it is tapped.
  await phone.waitForTimeout(5_000);
  await fault.getByRole("button", { name: "Seen" }).click();
  await expect(fault).toHaveCount(0);
  await phone.getByRole("button", { name: "Streaming" }).click();
  await expect(status).toHaveText("Streaming is on", { timeout: 60_000 });
  // The player's own home key, arrows around OK, and the loudness that the device tells.
  await expect(phone.getByRole("button", { name: "Its menu" })).toBeVisible();
  const at = async (name: string) =>
    (await phone.getByRole("button", { name, exact: true }).boundingBox()) ?? { x: 0, y: 0 };
  const [up, ok, left, right, down] = [
    await at("Up"),
    await at("OK"),
    await at("Left"),
    await at("Right"),
    await at("Down"),
  ];
  expect(up.y < ok.y && ok.y < down.y && left.x < ok.x && ok.x < right.x).toBeTruthy();
  expect(Math.abs(up.x - ok.x) < 2 && Math.abs(left.y - ok.y) < 2).toBeTruthy();
  await expect(phone.getByText(/^\d+(\.\d)?$/).first()).toBeVisible();
  // Stop moving and Finish never scroll away.
  for (const name of ["Not right?", "Stop moving", "Finish"])
    await expect(phone.getByRole("button", { name })).toBeInViewport();
  await accessible(phone);

  await phone.getByRole("button", { name: "Not right?" }).click();
  await accessible(phone);
  await phone.getByRole("button", { name: "No picture" }).click();
  await expect(phone.getByText(/Keep clear: .*Screen.* may move\./)).toBeVisible();
  await phone.getByRole("button", { name: "We keep clear: put it right" }).click();
  await expect(status).toHaveText("Starting Streaming");
  await expect(status).toHaveText("Streaming is on", { timeout: 60_000 });
  await phone.getByRole("button", { name: "Stop moving" }).click();

  await page.goto(`${kestrel.url}/`);
  await expect(page.getByText("1 open call of the household")).toBeVisible();
  await page.goto(`${kestrel.url}/houses/${house}/rooms/${hall}/rehearse?show=calls`);
  const calls = page.getByRole("list", { name: "Open calls" });
  await expect(calls).toContainText("No picture in Boat Hall, while it was taken for Streaming.");
  await calls.getByText("How the room stood then").click();
  await expect(calls).toContainText("Receiver");
  await accessible(page);
  await calls.getByRole("textbox").fill("The lamp was worn");
  await page.reload();
  await expect(calls.getByRole("textbox")).toHaveValue("The lamp was worn");
  await calls.getByRole("button", { name: "Close the call" }).click();
  await expect(page.getByText("1 closed call")).toBeVisible();
});

test("the whole house to rest is held, and says what moves when it is only tapped", async ({
  page,
  context,
  kestrel,
}) => {
  await opened(page, kestrel);
  await page.keyboard.press("5");
  const phone = await linked(page, context, kestrel, "Hall");
  await phone.getByRole("button", { name: "Games", exact: false }).first().click();
  await expect(phone.getByTestId("live-status")).toHaveText(/Games/);
  await phone.getByRole("button", { name: "Start" }).click();
  const rest = phone.getByRole("button", { name: "Whole house to rest" });
  await rest.scrollIntoViewIfNeeded();
  await rest.click();
  await expect(phone.getByRole("alert")).toContainText("Hold this key");
  await expect(phone.getByRole("alert")).toContainText("Awning");
  await phone.getByRole("button", { name: "Seen" }).click();
  await rest.hover();
  await phone.mouse.down();
  await expect(phone.getByTestId("live-status")).toHaveText(/Finishing|Everything is off/, {
    timeout: 20_000,
  });
  await phone.mouse.up();
});

/** What the tests look at of a house. */
interface House {
  devices: { id: string; name: string; profile: string }[];
  profiles: { id: string; functions: { id: string; name: string }[] }[];
}
