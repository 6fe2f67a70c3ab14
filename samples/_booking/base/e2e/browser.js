// Drives a headless Chromium through a pipe, which needs no package.
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

export async function open(url) {
  const profile = mkdtempSync(join(tmpdir(), "skerry-browser-"));
  const args = ["--headless", "--disable-gpu", "--no-first-run", "--remote-debugging-pipe", `--user-data-dir=${profile}`];
  if (process.getuid() === 0) args.push("--no-sandbox");
  const browser = spawn(process.env.CHROMIUM ?? "chromium", args, { stdio: ["ignore", "ignore", "ignore", "pipe", "pipe"] });
  const gone = new Promise((done) => browser.on("close", done));
  const waiting = new Map();
  let text = "", last = 0;
  browser.stdio[4].setEncoding("utf8").on("data", (data) => {
    const messages = (text + data).split("\0");
    text = messages.pop();
    for (const m of messages.map((m) => JSON.parse(m))) {
      waiting.get(m.id)?.(m);
      waiting.delete(m.id);
    }
  });
  let sessionId;
  const call = (method, params = {}) =>
    new Promise((done, fail) => {
      waiting.set(++last, (m) => (m.error ? fail(new Error(m.error.message)) : done(m.result)));
      browser.stdio[3].write(JSON.stringify({ id: last, method, params, sessionId }) + "\0");
    });
  const { targetId } = await call("Target.createTarget", { url });
  ({ sessionId } = await call("Target.attachToTarget", { targetId, flatten: true }));

  // evaluate gives the value of an expression in the page, once there is one.
  const evaluate = async (expression) => {
    for (let tries = 0; tries < 100; tries++) {
      const { result } = await call("Runtime.evaluate", { expression, awaitPromise: true, returnByValue: true });
      if (result.value) return result.value;
      await new Promise((done) => setTimeout(done, 50));
    }
    return undefined;
  };
  const close = async () => {
    sessionId = undefined;
    await call("Target.closeTarget", { targetId });
    await call("Browser.close");
    await gone;
    rmSync(profile, { recursive: true, force: true, maxRetries: 5 });
  };
  return { call, evaluate, close };
}
