// `npm run restore -- FILE`: takes a backup up. What was there before stays beside it under another name, and nothing is changed
// unless the whole backup could be read.
import { spawnSync } from "node:child_process";
import { existsSync } from "node:fs";
import { join, resolve } from "node:path";
import { checkNode, installDebian, postgresPrograms, say, stop } from "./environment.mjs";
import { ask, runningPostgres, startPostgres } from "./postgres.mjs";

const [file, ...more] = process.argv.slice(2);
if (!file || more.length > 0) stop("npm run restore -- FILE");
const source = resolve(process.env.INIT_CWD ?? process.cwd(), file);
if (!existsSync(source)) stop(`“${source}” is not there.`);
checkNode();
installDebian("postgresql", postgresPrograms);

/** All of it or nothing, into an empty database. */
function restoreInto(url) {
	const { status, stderr } = spawnSync(
		join(postgresPrograms(), "pg_restore"),
		["--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges", "--dbname", url, source],
		{ encoding: "utf8" },
	);
	return status === 0 ? undefined : stderr.trim();
}

if (process.env.DATABASE_URL) {
	const there = ask(
		process.env.DATABASE_URL,
		"select count(*) from information_schema.tables where table_name = 'shots' and table_schema = 'public'",
	);
	if (there !== "0") stop("The database of DATABASE_URL holds shots already; make an empty one and name that.");
	const problem = restoreInto(process.env.DATABASE_URL);
	if (problem) stop(`Nothing was restored: ${problem}`);
	say("Restored.");
} else {
	if (runningPostgres("postgres")) stop("The application runs. Stop it first: what is saved meanwhile would be lost.");
	const database = await startPostgres("postgres");
	const name = new URL(database.url).pathname.slice(1);
	const role = new URL(database.url).username;
	const inside = (other) => Object.assign(new URL(database.url), { pathname: other }).href;
	try {
		ask(database.adminUrl, `drop database if exists ${name}_restored with (force)`);
		ask(database.adminUrl, `create database ${name}_restored owner ${role}`);
		const problem = restoreInto(inside(`${name}_restored`));
		if (problem) {
			ask(database.adminUrl, `drop database ${name}_restored with (force)`);
			throw new Error(problem);
		}
		const before = `${name}_before_${new Date().toISOString().replace(/\D/g, "").slice(0, 14)}`;
		ask(database.adminUrl, `alter database ${name} rename to ${before}`);
		ask(database.adminUrl, `alter database ${name}_restored rename to ${name}`);
		say(`Restored. What was there before is kept as the database ${before}.`);
	} catch (error) {
		process.exitCode = 1;
		process.stderr.write(`Nothing was restored: ${error.message}\n`);
	} finally {
		await database.stop();
	}
	process.exit(process.exitCode ?? 0);
}
