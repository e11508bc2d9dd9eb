// What the two commands need of the machine. Only Node's own modules: this runs before anything is installed.
import { spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

export const ROOT = dirname(dirname(fileURLToPath(import.meta.url)));
export const DATA = process.env.RUBBLE_DATA ?? join(ROOT, ".data");

export const say = (text) => process.stdout.write(`· ${text}\n`);

/** Ends with one sentence for a person. */
export function stop(text) {
	process.stderr.write(`${text}\n`);
	process.exit(1);
}

export function checkNode() {
	const [major, minor] = process.versions.node.split(".").map(Number);
	if (major < 20 || (major === 20 && minor < 19)) stop(`Node 20.19 or newer is needed; this is ${process.versions.node}.`);
}

/** Installs npm packages where the lock file has changed since the last time. */
export function installPackages() {
	const lock = createHash("sha256")
		.update(readFileSync(join(ROOT, "package-lock.json")))
		.digest("hex");
	const stamp = join(ROOT, "node_modules", ".rubble-lock");
	if (existsSync(stamp) && readFileSync(stamp, "utf8") === lock) return;
	say("Installing npm packages (once)");
	const result = spawnSync("npm", ["ci", "--no-audit", "--no-fund", "--loglevel=error"], { cwd: ROOT, stdio: "inherit" });
	if (result.status !== 0) stop("npm could not install the packages; its message stands above.");
	writeFileSync(stamp, lock);
}

/** Installs a Debian package that provides `found`, as root or through sudo. */
export function installDebian(name, found) {
	if (found()) return;
	const root = process.getuid?.() === 0;
	const sudo = !root && spawnSync("sudo", ["-n", "true"]).status === 0;
	if (!existsSync("/usr/bin/apt-get") || (!root && !sudo))
		stop(`${name} is missing. Install it (on Debian: apt-get install ${name}) and start again.`);
	say(`Installing ${name} from Debian (once)`);
	const run = (...words) =>
		spawnSync(root ? words[0] : "sudo", root ? words.slice(1) : words, {
			stdio: ["ignore", "ignore", "inherit"],
			env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" },
		});
	run("apt-get", "update", "-qq");
	run("apt-get", "install", "-y", "-qq", "--no-install-recommends", name);
	if (!found()) stop(`${name} could not be installed; apt-get's message stands above.`);
}

/** The folder of PostgreSQL's programs, the newest version first. */
export function postgresPrograms() {
	const base = "/usr/lib/postgresql";
	const versions = existsSync(base) ? readdirSync(base).sort((a, b) => Number(b) - Number(a)) : [];
	return versions.map((version) => join(base, version, "bin")).find((bin) => existsSync(join(bin, "initdb")));
}

export const chromiumProgram = () => ["/usr/bin/chromium", "/usr/bin/chromium-browser"].find(existsSync);

/** The newest change under the folders that the web build is made from. */
export function sourceStamp() {
	const hash = createHash("sha256");
	const visit = (path) => {
		const info = statSync(path);
		if (info.isDirectory())
			for (const name of readdirSync(path).sort()) {
				if (!["node_modules", "build", ".react-router"].includes(name)) visit(join(path, name));
			}
		else hash.update(path.slice(ROOT.length)).update(readFileSync(path));
	};
	for (const path of ["apps/web", "packages/core", "package-lock.json"]) visit(join(ROOT, path));
	return hash.digest("hex");
}

/** Builds the web application where its sources have changed. */
export function buildWeb() {
	const stamp = join(ROOT, "apps/web/build/.stamp");
	const current = sourceStamp();
	if (existsSync(stamp) && readFileSync(stamp, "utf8") === current) return;
	say("Building the application");
	const result = spawnSync("npm", ["run", "--silent", "build"], { cwd: ROOT, stdio: ["ignore", "pipe", "pipe"], encoding: "utf8" });
	if (result.status !== 0) stop(`The build failed:\n${result.stdout}\n${result.stderr}`);
	mkdirSync(dirname(stamp), { recursive: true });
	writeFileSync(stamp, current);
}
