import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type BrowserContext, expect, type Page, test as base } from "@playwright/test";

const programs = join(import.meta.dirname, "../../artifacts/bin");
const program = (project: string, name: string) => join(programs, project, "release", `${name}.dll`);

/** An error in the log of a service, other than that a database refused or did not answer. */
const isOwnError = /"@l":"(Error|Fatal)"(?!.*"@x":"Kettlefog\.Core\.KettlefogException)/;

/** The demo world with a running service, as an operator's browser meets it. */
export class Service {
  readonly folder = mkdtempSync(join(tmpdir(), "kettlefog-browser-"));
  readonly database = join(this.folder, "saltmarrow.db");
  readonly map = join(this.folder, "saltmarrow.map.yaml");
  address = "";
  /** What services logged as errors of their own, and not as refusals: nothing that a test does may lead to one. */
  static readonly errors: string[] = [];
  private process: ChildProcess | undefined;

  /** Makes a world, or copies one of those that were made for all tests; with Kettlefog's own tables and three users. */
  static make(vendors: number): Service {
    const service = new Service();
    const made = join(process.env.KETTLEFOG_WORLDS ?? "", String(vendors));
    if (process.env.KETTLEFOG_WORLDS && existsSync(made)) {
      cpSync(made, service.folder, { recursive: true });
      return service;
    }
    execFileSync("dotnet", [program("Kettlefog.Demo", "kettlefog-demo"), service.folder, String(vendors)]);
    service.onMachine("init");
    for (const [name, fullName, role] of [
      ["c.weeks", "Corin Weeks", "operator"],
      ["h.trewin", "Hob Trewin", "viewer"],
      ["m.ashe", "Maud Ashe", "administrator"],
    ])
      service.onMachine("add-user", name ?? "", "--full-name", fullName ?? "", "--role", role ?? "");
    return service;
  }

  /** Makes worlds that all tests start from: most of what a service takes to start. */
  static makeWorlds(...sizes: number[]): string {
    const worlds = mkdtempSync(join(tmpdir(), "kettlefog-worlds-"));
    for (const vendors of sizes) {
      const service = Service.make(vendors);
      mkdirSync(join(worlds, String(vendors)));
      cpSync(service.folder, join(worlds, String(vendors)), { recursive: true });
      service.stop();
    }
    return worlds;
  }

  /** Starts a service on a world; its map and its database may be changed before. */
  static async start(vendors = 60, changeMap = (map: string, _service: Service) => map): Promise<Service> {
    const service = Service.make(vendors);
    writeFileSync(service.map, changeMap(readFileSync(service.map, "utf8"), service));
    await service.serve();
    return service;
  }

  /** A command of the service on the machine itself. */
  onMachine(...words: string[]): string {
    return execFileSync(
      "dotnet",
      [program("Kettlefog.Service", "kettlefog-service"), ...words, "--database", this.database],
      {
        encoding: "utf8",
        input: "tide over the bar\n",
      },
    ).trim();
  }

  async serve(port = "0"): Promise<void> {
    this.process = spawn(
      "dotnet",
      [
        program("Kettlefog.Service", "kettlefog-service"),
        "serve",
        "--database",
        this.database,
        "--map",
        this.map,
        "--port",
        port,
      ],
      {
        stdio: ["ignore", "pipe", "pipe"],
        env: { ...process.env, KETTLEFOG_SIGNING_KEY: `${this.database}.history.key` },
      },
    );
    let rest = "";
    this.process.stderr?.on("data", (said: Buffer) => {
      const lines = (rest + said.toString()).split("\n");
      rest = lines.pop() ?? "";
      Service.errors.push(...lines.filter((line) => isOwnError.test(line)));
    });
    this.address = await new Promise((resolve, reject) => {
      this.process?.stdout?.on("data", (said: Buffer) =>
        resolve(said.toString().replace("Kettlefog is listening on ", "").trim()),
      );
      this.process?.on("exit", () => reject(new Error("the service did not start")));
    });
  }

  kill(): void {
    this.process?.kill("SIGKILL");
  }

  /** What another program does to the records meanwhile, through the API with a token of its own. */
  async call(path: string, body?: unknown): Promise<unknown> {
    this.token ||= this.onMachine("token", "--user", "c.weeks");
    const response = await fetch(this.address + path, {
      method: body ? "POST" : "GET",
      headers: {
        Authorization: `Bearer ${this.token}`,
        "Content-Type": "application/json",
        "Idempotency-Key": crypto.randomUUID(),
      },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
    return response.json();
  }

  /** Vendors that nothing keeps from being merged with each other, with keys above one. */
  mergeable(count: number, above: number): string[] {
    return this.foreign(
      `SELECT vendor_id FROM vendor WHERE vendor_id > ${above} AND currency = 'GBP' AND legal_entity = 'SHT'
       AND status = 'active' ORDER BY 1 LIMIT ${count}`,
    ).split("\n");
  }

  /** Merges vendors, as somebody else does meanwhile; the number of the merge. */
  async merge(master: string, ...duplicates: string[]): Promise<number> {
    const plan = { recordType: "vendor", master, duplicates };
    const { fingerprint, blockers } = (await this.call("/api/plans", plan)) as {
      fingerprint: string;
      blockers: unknown[];
    };
    expect(blockers).toEqual([]);
    const { summary } = (await this.call("/api/merges", { plan, fingerprint, reason: "elsewhere" })) as {
      summary: { number: number };
    };
    return summary.number;
  }

  /** Scans all records of some types, to the end. */
  async scan(...recordTypes: string[]): Promise<void> {
    for (const recordType of recordTypes) {
      let scan = (await this.call("/api/scans", { recordType, scope: "whole" })) as {
        id: number;
        state: string;
      };
      while (scan.state !== "finished") {
        await new Promise((resolve) => setTimeout(resolve, 100));
        scan = (await this.call(`/api/scans/${scan.id}`)) as typeof scan;
      }
    }
  }

  /** What a program that knows nothing of us does to the database. */
  foreign(sql: string): string {
    return execFileSync("sqlite3", ["-cmd", ".timeout 5000", this.database, sql], {
      encoding: "utf8",
    }).trim();
  }

  /** Keeps all others from writing to the database for a while, as a program does that is in the middle of a transaction. */
  async hold(seconds: number): Promise<{ released: Promise<unknown> }> {
    const words = ["BEGIN IMMEDIATE", ".system echo held", `.system sleep ${seconds}`, "COMMIT"];
    const holder = spawn("sqlite3", ["-bail", this.database, ...words], {
      stdio: ["ignore", "pipe", "ignore"],
    });
    const released = new Promise((resolve) => holder.on("exit", resolve));
    await new Promise((resolve) => holder.stdout.once("data", resolve));
    return { released };
  }

  /** Signs in by a link, the first time; afterwards the browser has the session already. */
  async begin(page: Page, user = "c.weeks"): Promise<void> {
    const session = this.sessions.get(user);
    if (session) {
      await page.context().addCookies(session);
    } else {
      await page.goto(`${this.address}/sign-in#${this.onMachine("sign-in-link", "--user", user)}`);
      await page.getByRole("heading", { name: "Last thirty days" }).waitFor();
      this.sessions.set(user, await page.context().cookies());
    }
  }

  /** Signs in, and opens the list of vendors. */
  async signIn(page: Page, user = "c.weeks"): Promise<void> {
    await this.begin(page, user);
    await page.goto(`${this.address}/records/vendor`);
    await page.getByRole("link", { name: "1006", exact: true }).waitFor();
  }

  /** Lets the next sign-in be a new one, after a session was ended. */
  forgetSessions(): void {
    this.sessions.clear();
  }

  stop(): void {
    this.kill();
    rmSync(this.folder, { recursive: true });
  }

  private token = "";
  private readonly sessions = new Map<string, Awaited<ReturnType<BrowserContext["cookies"]>>>();
}

export const test = base.extend<{ withoutErrors: undefined }, { service: Service }>({
  withoutErrors: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants to see which fixtures are used
    async ({}, use) => {
      await use(undefined);
      expect(Service.errors.splice(0), "the service logged no error").toEqual([]);
    },
    { auto: true },
  ],
  service: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants to see which fixtures are used
    async ({}, use) => {
      const service = await Service.start();
      await use(service);
      service.stop();
    },
    { scope: "worker" },
  ],
});
