// A private PostgreSQL cluster on loopback, in the project's data folder.
import { spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import { chownSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { DATA, postgresPrograms, say, stop } from "./environment.mjs";

const isRoot = process.getuid?.() === 0;

/** PostgreSQL refuses to run as root: then everything is done as the user postgres. */
function asOwner(program, words, options = {}) {
	const [command, args] = isRoot
		? ["setpriv", ["--reuid=postgres", "--regid=postgres", "--init-groups", program, ...words]]
		: [program, words];
	return spawnSync(command, args, { encoding: "utf8", cwd: "/", ...options });
}

/** Where the cluster lives; outside the project where the user postgres could not reach it. */
function clusterFolder(name) {
	const wanted = join(DATA, name);
	mkdirSync(DATA, { recursive: true });
	if (!isRoot || asOwner("test", ["-x", DATA]).status === 0) return wanted;
	return join("/var/lib/mighty-rubble", createHash("sha256").update(wanted).digest("hex").slice(0, 12));
}

const freePort = () =>
	new Promise((resolve, reject) => {
		const server = createServer();
		server.once("error", reject);
		server.listen(0, "127.0.0.1", () => {
			const { port } = server.address();
			server.close(() => resolve(port));
		});
	});

function ownerId(flag) {
	return Number(spawnSync("id", [flag, "postgres"], { encoding: "utf8" }).stdout);
}

/** Starts the cluster, makes it first where needed, and returns its URL and how to stop it. */
export async function startPostgres(name) {
	const bin = postgresPrograms();
	const folder = clusterFolder(name);
	const sockets = join(tmpdir(), `rubble-${createHash("sha256").update(folder).digest("hex").slice(0, 8)}`);
	for (const path of [folder, sockets]) {
		mkdirSync(path, { recursive: true, mode: 0o700 });
		if (isRoot) chownSync(path, ownerId("-u"), ownerId("-g"));
	}
	if (!existsSync(join(folder, "PG_VERSION"))) {
		say("Making the database");
		const made = asOwner(join(bin, "initdb"), ["-D", folder, "--auth=trust", "--encoding=UTF8", "--locale=C.UTF-8", "-U", "rubble"]);
		if (made.status !== 0) stop(`The database could not be made: ${made.stderr}`);
	}
	const portFile = join(DATA, `${name}.port`);
	const running = asOwner(join(bin, "pg_ctl"), ["-D", folder, "status"]).status === 0;
	let port = existsSync(portFile) ? Number(readFileSync(portFile, "utf8")) : 0;
	if (!running) {
		port = await freePort();
		writeFileSync(portFile, String(port));
		// After a kill the old process may hold its lock for some seconds: try for up to a minute.
		const deadline = Date.now() + 60_000;
		for (;;) {
			const started = asOwner(
				join(bin, "pg_ctl"),
				["-D", folder, "-w", "-t", "30", "-l", join(folder, "log"), "-o", `-h 127.0.0.1 -p ${port} -k ${sockets}`, "start"],
				{ stdio: ["ignore", "ignore", "pipe"] },
			);
			if (started.status === 0) break;
			if (Date.now() > deadline) stop(`The database did not start. Its log is ${join(folder, "log")}.`);
			await new Promise((resolve) => setTimeout(resolve, 1000));
		}
	}
	const exists = asOwner(join(bin, "psql"), [
		"-h",
		"127.0.0.1",
		"-p",
		String(port),
		"-U",
		"rubble",
		"-d",
		"postgres",
		"-Atc",
		"select 1 from pg_database where datname = 'rubble'",
	]);
	if (exists.status !== 0) stop(`The database does not answer: ${exists.stderr}`);
	if (exists.stdout.trim() !== "1") asOwner(join(bin, "createdb"), ["-h", "127.0.0.1", "-p", String(port), "-U", "rubble", "rubble"]);
	return {
		url: `postgres://rubble@127.0.0.1:${port}/rubble`,
		stop: () => {
			asOwner(join(bin, "pg_ctl"), ["-D", folder, "-m", "fast", "-w", "stop"]);
		},
		remove: () => {
			rmSync(folder, { recursive: true, force: true });
			rmSync(portFile, { force: true });
		},
	};
}
