import { chromium } from "@playwright/test";
const url="http://127.0.0.1:7399";
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
const [house] = await (await fetch(`${url}/api/houses`)).json();
const site = await (await fetch(`${url}/api/houses/${house.id}`)).json();
const hall = site.rooms.find(r=>r.name==="Boat Hall").id;
async function shot(name, w, h, path, scheme, act) {
  const page = await browser.newPage({ viewport: { width: w, height: h }, locale: "en-GB", colorScheme: scheme });
  await page.addInitScript((s) => {localStorage.setItem("kestrel-who", "Ada"); localStorage.setItem("kestrel-theme", s);}, scheme);
  await page.goto(`${url}/houses/${house.id}/rooms/${hall}/${path}`);
  await page.waitForLoadState("networkidle", { timeout: 4000 }).catch(()=>{});
  await page.evaluate(t=>{document.documentElement.dataset.theme=t}, scheme);
  if (act) await act(page);
  await page.waitForTimeout(500);
  await page.screenshot({ path: `/tmp/pics/${name}.png` });
  await page.close();
}
await shot("plan-floor",1280,800,"kit?view=plan","light", async p=>{ const s=p.getByText(/^The room: sides/); await s.click(); await s.scrollIntoViewIfNeeded(); await p.mouse.move(900,500); await p.mouse.wheel(0,500);});
await shot("plan-dark",1280,800,"kit?view=plan","dark");
await shot("plan-gateways",1280,800,"kit?view=plan&plan=gateways","light", async p=>{ await p.getByRole("checkbox",{name:"the whole house"}).check(); await p.getByRole("button",{name:"Find the cheapest set"}).click(); await p.waitForTimeout(400); await p.screenshot({path:"/tmp/pics/plan-looking.png"}); await p.getByTestId("gateway-set").waitFor({timeout:60000}); });
await shot("plan-phone",390,844,"kit?view=plan","light", async p=>{ const s=p.getByText(/^The room: sides/); await s.click(); await s.scrollIntoViewIfNeeded();});
await browser.close();
