import { spawn, type ChildProcess } from "node:child_process";

const binary = "../bin/journeyman";

/** Starts the program and waits until it prints what is looked for, whose first group is returned. */
function start(args: string[], looked: RegExp): Promise<{ found: string; stop: () => Promise<void> }> {
  const child: ChildProcess = spawn(binary, args, {
    stdio: ["ignore", "pipe", "inherit"],
  });
  const ended = new Promise<void>((resolve) => child.once("exit", () => resolve()));
  const stop = async () => {
    child.kill("SIGINT");
    await ended;
  };
  return new Promise((resolve, reject) => {
    let said = "";
    child.stdout?.on("data", (text: Buffer) => {
      said += text.toString();
      const found = looked.exec(said)?.[1];
      if (found) resolve({ found, stop });
    });
    child.once("error", reject);
    child.once("exit", (code) => reject(new Error(`${args[0]} ended with ${code} and said: ${said}`)));
  });
}

/** The demo book, once for all tests: each file of tests works on a copy of it. */
export default async function demoBook() {
  const book = await start(
    [
      "demo",
      "--reset",
      "--fast",
      "--book-only",
      "--data",
      `/tmp/journeyman-e2e-${process.getuid?.() ?? 0}`,
      "--addr",
      "127.0.0.1:0",
      "--log",
      "warn",
    ],
    /is made: (\S+)/,
  );
  process.env.JOURNEYMAN_E2E_DATABASE = book.found;
  return book.stop;
}

/** A server with a copy of the demo book. */
export async function startServer() {
  const server = await start(
    [
      "demo",
      "--copy",
      "--database",
      process.env.JOURNEYMAN_E2E_DATABASE ?? "",
      "--addr",
      "127.0.0.1:0",
      "--deliver-after",
      "8s",
      "--metrics-addr",
      "",
      "--log",
      "warn",
    ],
    /ready: (\S+)/,
  );
  return { url: server.found, stop: server.stop };
}
