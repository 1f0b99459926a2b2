// The pictures of docs/screenshots/, made anew from the demo data of an application that runs: a fresh database, because
// learning and rehearsing leave traces.
//
//   node e2e/measure/pictures.mjs http://127.0.0.1:7310
//   node e2e/measure/pictures.mjs http://127.0.0.1:7310 phone cues     only those parts
import { chromium } from "@playwright/test";

const url = process.argv[2] ?? "http://127.0.0.1:7310";
const wanted = process.argv.slice(3);
const folder = new URL("../../docs/screenshots/", import.meta.url).pathname;
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, locale: "en-GB" });
await page.addInitScript(() => localStorage.setItem("kestrel-who", "Ada"));
const heading = page.getByRole("heading", { level: 1 });
const [house] = await (await page.request.get(`${url}/api/houses`)).json();
const site = await (await page.request.get(`${url}/api/houses/${house.id}`)).json();
const idOf = (name) => site.rooms.find((room) => room.name === name).id;

/** Opens a stage of a room, with the notes in the margin there. */
async function open(room, stage) {
  await page.goto(`${url}/houses/${house.id}/rooms/${idOf(room)}/${stage}`);
  await heading.waitFor();
  await page.getByRole("complementary", { name: "Notes in the margin" }).waitFor();
  await page.getByText("Looking at the room").waitFor({ state: "hidden" });
  await page.waitForLoadState("networkidle", { timeout: 3_000 }).catch(() => undefined);
}

/** Keeps what is shown. */
async function keep(name) {
  await page.mouse.move(640, 790);
  await page.screenshot({ path: `${folder}${name}.png` });
  console.log(name);
}

const tab = (name) => page.getByRole("tab", { name, exact: true }).click();
const button = (name) => page.getByRole("button", { name, exact: true }).click();

/** A part of the pictures, where it is wanted. */
async function part(name, make) {
  if (wanted.length === 0 || wanted.includes(name)) await make();
}

await part("kit", async () => {
  await open("Boat Hall", "kit");
  await keep("kit");
});

/** A press of a key of a remote that no built-in protocol fits. */
function unknownPress(key) {
  const bits = (value, count) => Array.from({ length: count }, (_, at) => (value >> at) & 1);
  const said = [...bits(0x7a11, 16), ...bits(key, 8), ...bits(~key, 8)];
  const frame = [6000, -3000, ...said.flatMap((bit) => [500, bit ? -1500 : -500]), 500];
  const length = frame.reduce((sum, us) => sum + Math.abs(us), 0);
  const whole = [...frame, length - 90_000].map((us) => (us < 0 ? String(us) : `+${us}`));
  return Array.from({ length: 3 }, () => whole.join(" ")).join(" ");
}

await part("protocols", async () => {
  // The sheet lies over the page, whose heading nobody can see then.
  await page.goto(`${url}/houses/${house.id}/rooms/${idOf("Boat Hall")}/codes?tool=protocols`);
  const sheet = page.getByRole("dialog", { name: "Protocols of this house" });
  for (const key of [3, 77, 128]) {
    await sheet.getByLabel("A capture of one key").fill(unknownPress(key));
    await sheet.getByRole("button", { name: "Add this capture" }).click();
  }
  await sheet.getByRole("button", { name: "Propose a description" }).click();
  await sheet.getByRole("list", { name: "What was found" }).waitFor();
  await sheet.getByLabel("Name").fill("lantern");
  await sheet.getByTestId("described-frame").waitFor();
  await sheet.getByRole("button", { name: "Keep with the house" }).scrollIntoViewIfNeeded();
  await keep("protocols");
  // What was typed is forgotten.
  await page.evaluate(() => localStorage.clear());
});

await part("codes", async () => {
  await open("Boat Hall", "codes");
  await page.getByRole("button", { name: "Power on of Receiver: decoded" }).click();
  await page
    .getByRole("img", { name: /waveform|marks/i })
    .first()
    .waitFor();
  await keep("codes");
});

await part("sequences", async () => {
  await open("Boat Hall", "sequences");
  await page.getByRole("table").first().waitFor();
  await keep("sequences");
});

await part("proof", async () => {
  await open("Watch Room", "sequences");
  await tab("Switch matrix");
  await page.getByRole("table", { name: "Switch matrix" }).waitFor();
  await keep("matrix");
  await page.getByRole("table", { name: "Switch matrix" }).getByRole("button").last().click();
  await tab("Proof");
  await page.getByRole("heading", { name: "Remedies" }).waitFor();
  await page.getByRole("button", { name: "Apply" }).first().waitFor();
  await keep("proof");
});

await part("cues", async () => {
  await open("Boat Hall", "cues");
  await keep("cues");
  await tab("An evening");
  await page.getByText("What people do").waitFor();
  await page.waitForTimeout(500);
  await keep("evening");
});

await part("surfaces", async () => {
  await open("Boat Hall", "surfaces");
  await page.getByRole("radio", { name: "Streaming" }).click();
  await page.getByRole("table", { name: "Keys of Streaming" }).waitFor();
  await keep("surfaces");
});

await part("rehearse", async () => {
  await open("Chart Loft", "rehearse");
  await button("10 ×");
  await button("Loft television");
  await page.locator('[data-testid="run"][data-end="ready"]').waitFor({ timeout: 60_000 });
  await keep("rehearse");
  await button("Dark room");
  await keep("rehearse-dark-room");
  await page
    .getByRole("button", { name: /Paper|Day|Light room|Dark room/ })
    .last()
    .click();
  await page.getByRole("tab", { name: "In step" }).click();
  await page.getByRole("table").first().waitFor();
  await keep("in-step");
});

await part("plan", async () => {
  await open("Boat Hall", "kit");
  await page.getByRole("tab", { name: "Plan" }).click();
  await page.getByTestId("field").waitFor({ state: "attached" });
  await page.waitForTimeout(800);
  await keep("plan");
});

await part("handover", async () => {
  await open("Boat Hall", "handover");
  await page.getByRole("button", { name: /Projector.*power on → takes commands/ }).click();
  await page.getByRole("button", { name: "In the house" }).click();
  await page.waitForTimeout(500);
  await keep("handover");
  await page.getByRole("tab", { name: "Tests" }).click();
  await page.getByTestId("round").waitFor();
  await keep("tests");
  await page.getByRole("tab", { name: "Service call" }).click();
  const says = page.getByRole("region", { name: "What the client says" });
  await says
    .getByRole("row", { name: /^Picture/ })
    .getByRole("button", { name: "as it should be" })
    .click();
  await says
    .getByRole("row", { name: /^Sound/ })
    .getByRole("button", { name: "not" })
    .click();
  await says.getByRole("combobox", { name: "After what" }).selectOption("power-cut");
  await page.waitForTimeout(1500);
  await keep("service-call");
});

await part("learn", async () => {
  await open("Slip Deck", "codes");
  await page.getByRole("button", { name: /^Learn/ }).click();
  await page
    .getByText(/Press “|Listening|Press /)
    .first()
    .waitFor();
  // A busy machine hears late: the key is pressed again until it is heard.
  const heard = page.getByText("Heard, and nothing speaks against it.");
  for (let tries = 0; tries < 6 && !(await heard.isVisible()); tries++) {
    await page.keyboard.press(" ");
    await heard.waitFor({ timeout: 10_000 }).catch(() => undefined);
  }
  await heard.waitFor();
  await keep("learn");
});

await part("phone", async () => {
  const [surface] = site.rooms.find((room) => room.name === "Boat Hall").surfaces;
  const link = await page.request.post(
    `${url}/api/houses/${house.id}/rooms/${idOf("Boat Hall")}/surface-links`,
    {
      data: { surface: surface.id, label: "Kitchen phone" },
    },
  );
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto(`${url}/s/${(await link.json()).token}`);
  await page.getByRole("button", { name: "Streaming" }).click();
  await page.getByText("Streaming is on").waitFor({ timeout: 120_000 });
  await page.waitForTimeout(500);
  await keep("phone");
});

await browser.close();
