// The service under load: 200 clients who read all areas again and again for a minute, with pauses
// as people and programs make them, beside 50 slow ones that never finish asking.
import { spawn } from "node:child_process";
import { readFileSync } from "node:fs";
import http from "node:http";
import net from "node:net";
import { fileURLToPath } from "node:url";
import { report, small } from "./report.mjs";

const [sheet] = process.argv.slice(2);
const command = fileURLToPath(new URL("../inst/bin/ochre", import.meta.url));
const [clients, slow, seconds] = small ? [20, 5, 2] : [200, 50, 60];
const service = spawn("Rscript", [command, "serve", sheet, "--port", "0"]);
const ended = new Promise((done) => service.on("exit", done));
const pause = (ms) => new Promise((done) => setTimeout(done, ms));

const port = await new Promise((found, lost) => {
  let said = "";
  const hear = (bytes) => {
    said += bytes;
    const at = /http:\/\/127\.0\.0\.1:(\d+)/.exec(said);
    if (at) found(Number(at[1]));
  };
  service.stdout.on("data", hear);
  service.stderr.on("data", hear);
  ended.then(() => lost(new Error(`The service did not start: ${said}`)));
});
const memory = () =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${service.pid}/status`, "utf8"))[1]) / 1024;
const agent = new http.Agent({ keepAlive: true, maxSockets: clients });
const ask = (path) =>
  new Promise((done, lost) => {
    const begin = performance.now();
    const headers = { "accept-encoding": "gzip" };
    const request = http.get({ host: "127.0.0.1", port, path, agent, headers }, (answer) => {
      const parts = [];
      answer.on("data", (part) => parts.push(part));
      answer.on("end", () =>
        answer.statusCode === 200
          ? done({ ms: performance.now() - begin, body: Buffer.concat(parts) })
          : lost(new Error(`${path}: ${answer.statusCode}`)),
      );
    });
    request.on("error", lost);
  });

const collection = await new Promise((done) =>
  http.get({ host: "127.0.0.1", port, path: "/collections?f=json", agent }, async (answer) => {
    let text = "";
    for await (const part of answer) text += part;
    done(JSON.parse(text).collections[0].id);
  }),
);
const items = `/collections/${collection}/items?f=geojson&limit=100`;
await ask(items);

// They say a letter of a header each second.
const crawlers = Array.from({ length: slow }, () => {
  const socket = net.connect(port, "127.0.0.1");
  socket.on("error", () => {});
  socket.write(`GET ${items} HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nX-Slow: `);
  return setInterval(() => socket.writable && socket.write("x"), 1000);
});

const times = [];
let errors = 0;
const begin = performance.now();
const end = begin + seconds * 1000;
let early = 0;
setTimeout(() => (early = memory()), (seconds * 1000) / 2);
await Promise.all(
  Array.from({ length: clients }, async () => {
    await pause(600 * Math.random());
    while (performance.now() < end) {
      try {
        times.push((await ask(items)).ms);
      } catch {
        errors += 1;
      }
      await pause(300 * (0.5 + Math.random()));
    }
  }),
);
const late = memory();
crawlers.forEach(clearInterval);
service.kill("SIGINT");
agent.destroy();
await ended;
if (errors) throw new Error(`${errors} of ${times.length + errors} requests failed`);

times.sort((a, b) => a - b);
const share = (p) => times[Math.floor(p * (times.length - 1))];
const detail =
  `${times.length} answers in ${seconds} s, none failed; median ${share(0.5).toFixed(1)} ms, ` +
  `95 % within ${share(0.95).toFixed(1)} ms; ${late.toFixed(0)} MB`;
report(`${clients} clients of the service: median`, share(0.5) / 20, "20 ms", 1, detail);
report(`${clients} clients of the service: memory`, late / early, "that after half the time", 1.1);
process.exit(0);
