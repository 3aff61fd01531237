// R processes that serve pages, for tests.
import { spawn } from "node:child_process";
import { after } from "node:test";

const running = [];
after(() => running.forEach((process) => process.kill("SIGKILL")));

// Runs R and waits for a line that matches; gives the match, and all that was said.
export function serve(args, pattern) {
  const process = spawn("Rscript", args);
  running.push(process);
  const said = { text: "" };
  return new Promise((done, fail) => {
    const hear = (data) => {
      said.text += data;
      const match = pattern.exec(said.text);
      if (match) done({ process, match, said });
    };
    process.stdout.on("data", hear);
    process.stderr.on("data", hear);
    process.on("exit", () => fail(new Error(said.text)));
  });
}
