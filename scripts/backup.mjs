// `npm run backup -- FILE`: everything that is stored, as one file. Consistent while the application runs: one snapshot of the database.
import { spawnSync } from "node:child_process";
import { existsSync, renameSync, rmSync, statSync } from "node:fs";
import { join, resolve } from "node:path";
import { checkNode, installDebian, postgresPrograms, say, stop } from "./environment.mjs";
import { runningPostgres, startPostgres } from "./postgres.mjs";

const [file, ...more] = process.argv.slice(2);
if (!file || more.length > 0) stop("npm run backup -- FILE");
const target = resolve(process.env.INIT_CWD ?? process.cwd(), file);
if (existsSync(target)) stop(`“${target}” is there already; name another file.`);
checkNode();
installDebian("postgresql", postgresPrograms);
const running = process.env.DATABASE_URL ? { url: process.env.DATABASE_URL } : runningPostgres("postgres");
const own = running ? undefined : await startPostgres("postgres");
// Under another name until it is whole.
const partial = `${target}.partial`;
const { status, stderr } = spawnSync(
	join(postgresPrograms(), "pg_dump"),
	["--format=custom", "--compress=1", "--no-owner", "--no-privileges", "--file", partial, (running ?? own).url],
	{ encoding: "utf8" },
);
await own?.stop();
if (status !== 0) {
	rmSync(partial, { force: true });
	stop(`The backup failed: ${stderr.trim()}`);
}
renameSync(partial, target);
say(`${target}: ${(statSync(target).size / 1e6).toFixed(1)} MB`);
