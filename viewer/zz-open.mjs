import { chromium } from "playwright-core"; import { readdirSync } from "node:fs";
const dir = process.argv[2]; const b = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
for (const f of readdirSync(dir).filter((f) => f.endsWith(".html"))) {
  const p = await (await b.newContext({ viewport: { width: 1280, height: 800 } })).newPage(); const faults = [];
  p.on("console", (m) => ["error"].includes(m.type()) && faults.push(m.text())); p.on("pageerror", (e) => faults.push(e.stack.split("\n").slice(0,5).join(" | ")));
  await p.goto(`file://${dir}/${f}`); await p.waitForTimeout(1200);
  const alive = await p.locator(".ochre-alive .ochre-stage canvas").count();
  // hover, table
  let table = ""; try { await p.mouse.move(500, 400); await p.waitForTimeout(100); await p.mouse.click(500,400); await p.waitForTimeout(100); const t = p.locator("button[aria-label*='able']").first(); if (await t.count()) { await t.click({timeout:1000}); await p.waitForTimeout(200); table = (await p.locator(".ochre-table tbody tr").count()) + " rows"; } } catch (e) { table = "T:" + e.message.slice(0,60); }
  const legend = (await p.locator(".ochre-legend, .ochre-side").first().innerText().catch(() => "")).replace(/\n/g, "|").slice(0, 150);
  console.log(f, alive ? "alive" : "DEAD", table, faults.join(" ; "), "L:", legend);
  if (!alive) console.log("   ", (await p.locator("body").innerText()).slice(0, 200).replace(/\n/g, "|"));
}
await b.close();
