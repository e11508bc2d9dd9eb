// `npm test`: type check, lint, structure, unused code, unit tests, tests of the real interface.
// Ends with one plain line that counts what really ran.
import { spawn, spawnSync } from "node:child_process";
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { join, relative } from "node:path";
import { buildWeb, checkNode, chromiumProgram, DATA, installDebian, installPackages, postgresPrograms, ROOT, say } from "./environment.mjs";
import { freePort, startPostgres } from "./postgres.mjs";
import { keepServer, keepWorker } from "./processes.mjs";

const only = process.argv.slice(2);
const wanted = (name) => only.length === 0 || only.includes(name);
let passed = 0;
let failed = 0;
/** What failed, once more at the end: between it and there may lie much. */
const failing = [];

checkNode();
installPackages();

function check(name, words) {
	if (!wanted(name)) return;
	say(name);
	const { status, stdout, stderr } = spawnSync("npm", ["run", "--silent", ...words], { cwd: ROOT, encoding: "utf8", maxBuffer: 1 << 28 });
	if (status === 0) passed++;
	else {
		failed++;
		failing.push(name);
		process.stdout.write(`${stdout}${stderr}\n`);
	}
}

/** Not by waiting for it: the application under test is looked after meanwhile. */
async function jest(name, config, env = {}) {
	say(name);
	const results = join(DATA, `${name}.json`);
	mkdirSync(DATA, { recursive: true });
	rmSync(results, { force: true });
	const running = spawn(
		process.execPath,
		[
			"--experimental-vm-modules",
			"--disable-warning=ExperimentalWarning",
			"node_modules/jest/bin/jest.js",
			"--config",
			config,
			"--json",
			"--outputFile",
			results,
			...(process.env.CI ? ["--ci"] : []),
		],
		{
			cwd: ROOT,
			stdio: ["ignore", "ignore", "inherit"],
			env: { ...process.env, ...env },
		},
	);
	await new Promise((resolve) => running.once("exit", resolve));
	if (!existsSync(results)) {
		failed++;
		return;
	}
	const { numPassedTests, numFailedTests, numRuntimeErrorTestSuites, testResults } = JSON.parse(readFileSync(results, "utf8"));
	passed += numPassedTests;
	failed += numFailedTests + numRuntimeErrorTestSuites;
	for (const { assertionResults, message, name } of testResults) {
		const failures = assertionResults.filter(({ status }) => status === "failed");
		if (failures.length === 0 && assertionResults.length === 0) failures.push({ fullName: "could not be run", failureMessages: [message] });
		for (const { fullName, failureMessages } of failures)
			failing.push(`${relative(ROOT, name)}: ${fullName}: ${(failureMessages[0] ?? "").split("\n")[0]}`);
	}
}

async function interfaceTests() {
	installDebian("postgresql", postgresPrograms);
	installDebian("chromium", chromiumProgram);
	buildWeb();
	// A database of its own, made anew, so that a running application is left alone.
	const database = await startPostgres("postgres-test");
	const port = await freePort();
	const url = `http://localhost:${port}`;
	const server = keepServer(database.url, { PORT: String(port), SAMPLE_TAKES: "no" }, { output: "ignore" });
	let worker;
	try {
		await server.ready;
		worker = keepWorker(database.url, { output: "ignore" });
		await jest("interface tests", "jest.e2e.config.mjs", {
			RUBBLE_URL: url,
			CHROMIUM: chromiumProgram(),
			DATABASE_URL: database.url,
			DATABASE_ADMIN_URL: database.adminUrl,
		});
	} finally {
		await worker?.stop();
		await server.stop();
		await database.stop();
		database.remove();
	}
}

check("types", ["typecheck"]);
check("lint", ["lint"]);
check("structure", ["structure"]);
check("unused", ["unused"]);
if (wanted("unit")) await jest("unit tests", "jest.config.mjs");
if (wanted("interface")) await interfaceTests();

for (const one of failing) process.stdout.write(`failed: ${one}\n`);
process.stdout.write(`${passed} passed, ${failed} failed\n`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
