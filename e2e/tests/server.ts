import { test as base, expect, type Locator, type Page } from "@playwright/test";
import { AxeBuilder } from "@axe-core/playwright";
import { execFileSync, spawn, type ChildProcess } from "node:child_process";
import { randomBytes } from "node:crypto";
import { connect, createServer, type Server, type Socket } from "node:net";
import { resolve } from "node:path";

const root = resolve(import.meta.dirname, "../..");

/** The address of the database cluster; `./kestrel test` gives it, else the script is asked. */
function cluster(): string {
  const known = process.env["KESTREL_TEST_DATABASE"];
  return known ?? execFileSync(resolve(root, "kestrel"), ["database"], { encoding: "utf8" }).trim();
}

function sql(text: string): void {
  const { hostname, port, username, password } = new URL(cluster());
  const at = ["-h", hostname, "-p", port, "-U", username, "-d", "postgres"];
  execFileSync("psql", [...at, "-X", "-q", "-v", "ON_ERROR_STOP=1", "-c", text], {
    stdio: "pipe",
    env: { ...process.env, PGPASSWORD: password },
  });
}

/** The way from the server to its database, which a test can cut. */
class Link {
  private server: Server | undefined;
  private readonly sockets = new Set<Socket>();
  private readonly target: URL;
  port = 0;

  constructor(url: string) {
    this.target = new URL(url);
  }

  open(): Promise<void> {
    this.server = createServer((near) => {
      const far = connect(Number(this.target.port), this.target.hostname);
      for (const [one, other] of [
        [near, far],
        [far, near],
      ] as const) {
        this.sockets.add(one);
        one.pipe(other);
        one.on("error", () => other.destroy());
        one.on("close", () => other.destroy());
      }
    });
    return new Promise((done) => {
      this.server?.listen(this.port, "127.0.0.1", () => {
        const address = this.server?.address();
        if (address && typeof address === "object") this.port = address.port;
        done();
      });
    });
  }

  cut(): void {
    this.server?.close();
    for (const socket of this.sockets) socket.destroy();
    this.sockets.clear();
  }
}

/** A server with the demo house, on a database that nobody else uses. */
export class Kestrel {
  url = "";
  private process: ChildProcess | undefined;
  constructor(private readonly verb: "demo" | "serve" = "demo") {}

  private readonly name = `kestrel_test_${process.pid}_${randomBytes(4).toString("hex")}`;
  readonly link = new Link(cluster());

  /** The demo house on this server. */
  get home(): string {
    return `${this.url}/houses/6b640000-0000-7000-8000-000000000001`;
  }

  async start(): Promise<void> {
    sql(`create database ${this.name}`);
    await this.link.open();
    await this.launch();
  }

  /** The address of its database, past the link. */
  get database(): string {
    return `${cluster()}/${this.name}`;
  }

  /** Where the workbench is reached over the network, once it listens there. */
  network = "";

  /** Starts anew, and listens on the network as well. */
  async listen(): Promise<void> {
    await this.halt();
    await this.launch(["--listen", "127.0.0.1:0"]);
  }

  private async launch(more: string[] = []): Promise<void> {
    const database = new URL(this.database);
    database.port = String(this.link.port);
    const binary = process.env["KESTREL_BINARY"] ?? resolve(root, "target/debug/kestrel-dune");
    const child = spawn(binary, [this.verb, "--port", "0", ...more], {
      env: { ...process.env, KESTREL_DATABASE_URL: database.href },
      stdio: ["ignore", "pipe", "inherit"],
    });
    this.process = child;
    this.url = await new Promise<string>((found, failed) => {
      child.once("exit", (code) => failed(new Error(`the server ended with code ${code}`)));
      child.stdout.on("data", (chunk: Buffer) => {
        const text = chunk.toString();
        this.network = /workbench is on (http:\/\/[\d.:]+)/.exec(text)?.[1] ?? this.network;
        const address = /Kestrel Dune is on (http:\/\/[\d.:]+)/.exec(text)?.[1];
        if (address) found(address);
      });
    });
  }

  private async halt(): Promise<void> {
    const child = this.process;
    if (!child || child.exitCode !== null) return;
    const gone = new Promise((done) => child.once("exit", done));
    child.kill("SIGTERM");
    await gone;
  }

  async restart(): Promise<void> {
    await this.halt();
    await this.launch();
  }

  async stop(): Promise<void> {
    await this.halt();
    this.link.cut();
    sql(`drop database if exists ${this.name} with (force)`);
  }
}

export const test = base.extend<{ kestrel: Kestrel; bare: Kestrel }>({
  /** A server with an empty shelf. */
  // eslint-disable-next-line no-empty-pattern -- Playwright reads the pattern to know what a fixture needs
  bare: async ({}, give) => {
    const kestrel = new Kestrel("serve");
    await kestrel.start();
    await give(kestrel);
    await kestrel.stop();
  },
  // eslint-disable-next-line no-empty-pattern -- Playwright reads the pattern to know what a fixture needs
  kestrel: async ({}, give) => {
    const kestrel = new Kestrel();
    await kestrel.start();
    await give(kestrel);
    await kestrel.stop();
  },
});

/** The page of a fresh server, once it takes keys. */
export async function opened(page: Page, kestrel: Kestrel): Promise<void> {
  await page.goto(kestrel.home);
  await expect(page.getByRole("heading", { name: "Kit" })).toBeVisible();
}

/** Nothing that axe finds, in either theme. */
export async function accessible(page: Page): Promise<void> {
  for (const theme of ["light", "dark"]) {
    await page.evaluate((name) => {
      document.documentElement.dataset["theme"] = name;
    }, theme);
    const axe = new AxeBuilder({ page });
    // The dark room differs in nothing but its colours.
    if (theme === "dark") axe.withRules(["color-contrast"]);
    else axe.withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]);
    const { violations } = await axe.analyze();
    const found = violations.map(
      (v) => `${theme}: ${v.id}: ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`,
    );
    expect(found).toEqual([]);
  }
  await page.evaluate(() => {
    document.documentElement.dataset["theme"] = "light";
  });
}

export { expect };

/** Goes to a room with the bracket keys. */
export async function room(page: Page, name: string): Promise<void> {
  const heading = page.getByRole("heading", { level: 1 });
  for (let at = 0; at < 8; at++) {
    const before = (await heading.textContent()) ?? "";
    if (before.endsWith(name)) break;
    await page.keyboard.press("]");
    await expect(heading).not.toHaveText(before);
  }
  await expect(heading).toHaveText(`Marram Point ▸ ${name}`);
}

/** Opens the list of rooms from the title. */
export async function roomList(page: Page): Promise<Locator> {
  await page.getByRole("heading", { level: 1 }).getByRole("button").click();
  return page.getByRole("dialog", { name: /^Rooms of/ });
}
