// Measures how long it takes from an event in a rehearsal room to the page, while many rooms rehearse at once.
// kestrel-dune export demo | node e2e/measure/rooms.mjs make 50 > fifty.kdune.json
// kestrel-dune import fifty.kdune.json; kestrel-dune serve --port 7399; node e2e/measure/rooms.mjs http://127.0.0.1:7399 50
import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { chromium } from "playwright-core";

const base = process.argv[2] ?? "http://127.0.0.1:7310";
const wanted = Number(process.argv[3] ?? 50);
const house = "6b640000-0000-7000-8000-000000000001";
const loft = "6b640000-0001-7000-8000-000000000007";
const api = (path, body) =>
  fetch(`${base}/api/houses/${house}${path}`, {
    method: body === undefined ? "GET" : "POST",
    headers: { "content-type": "application/json" },
    body: body === undefined ? undefined : JSON.stringify(body),
  }).then(async (answer) => {
    if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
    return answer.status === 204 ? undefined : answer.json();
  });

if (process.argv[2] === "make") {
  // Reads the site file of the demo house and writes one with more copies of Chart Loft.
  const file = JSON.parse(readFileSync(0, "utf8"));
  const site = file.site ?? file;
  const own = site.devices.filter((device) => device.room === loft);
  const original = site.rooms.find((known) => known.id === loft);
  const cables = site.connections.filter((known) => own.some((device) => device.id === known.from_device));
  const codes = site.codes.filter((known) => own.some((device) => device.id === known.device));
  const activities = site.activities.filter((known) => known.room === loft);
  for (let number = 1; number < wanted; number += 1) {
    const room = randomUUID();
    const ids = own.map((device) => [device.id, randomUUID()]);
    const moved = (value) =>
      JSON.parse(ids.reduce((text, [from, to]) => text.replaceAll(from, to), JSON.stringify(value)));
    site.rooms.push({ ...original, id: room, name: `Loft ${number}`, position: 20 + number });
    for (const device of own)
      site.devices.push({ ...moved(device), room, name: `${device.name} ${number}`, network: {} });
    for (const cable of cables) site.connections.push({ ...moved(cable), id: randomUUID() });
    for (const code of codes) site.codes.push({ ...moved(code), id: randomUUID() });
    for (const activity of activities) site.activities.push({ ...moved(activity), id: randomUUID(), room });
  }
  process.stdout.write(JSON.stringify(file));
  process.exit(0);
}
const view = await api("");
const all = await api("");
const everyRoom = all.rooms.filter((room) => room.name === "Chart Loft" || room.name.startsWith("Loft "));
for (const room of everyRoom.slice(0, wanted)) {
  const film = all.activities.find((known) => known.room === room.id && known.name === "Loft television");
  await api(`/rooms/${room.id}/rehearsal/run`, { to: { is: "in", activity: film.id } });
}
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto(`${base}/houses/${house}/rooms/${loft}/rehearse`);
await page.getByRole("button", { name: "Finish" }).waitFor();
await page.waitForTimeout(5_000);
const dimmer = view.devices.find((device) => device.name === "Loft dimmer").id;
const times = [];
for (let at = 0; at < 40; at += 1) {
  const percent = 10 + at;
  times.push(
    await page.evaluate(
      async ({ url, device, percent }) => {
        const cell = document.querySelector('[data-standing="Loft dimmer"] td');
        const shown = new Promise((done) => {
          const seen = () => cell.textContent.includes(`${percent} %`) && done(performance.now());
          new MutationObserver(seen).observe(cell, { subtree: true, childList: true, characterData: true });
        });
        const start = performance.now();
        await fetch(url, {
          method: "POST",
          headers: { "content-type": "application/json" },
          body: JSON.stringify({ does: "level", device, percent }),
        });
        return (await shown) - start;
      },
      { url: `/api/houses/${house}/rooms/${loft}/rehearsal/hand`, device: dimmer, percent },
    ),
  );
  await page.waitForTimeout(150);
}
await browser.close();
times.sort((a, b) => a - b);
const at = (share) => Math.round(times[Math.min(times.length - 1, Math.floor(times.length * share))]);
console.log(
  `${everyRoom.length} rooms: median ${at(0.5)} ms, 95 % ${at(0.95)} ms, worst ${at(1)} ms of ${times.length}`,
);
