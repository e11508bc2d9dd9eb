// The application's processes: the server, and workers beside it.
import { spawn } from "node:child_process";
import { join } from "node:path";
import { ROOT } from "./environment.mjs";

function start(program, env, stdio) {
	const running = spawn(process.execPath, ["--import", "tsx", program], {
		cwd: join(ROOT, "apps/web"),
		stdio,
		env: { ...process.env, NODE_ENV: "production", ...env },
	});
	const ended = new Promise((resolve) => running.once("exit", resolve));
	return {
		process: running,
		ended,
		stop: () => {
			running.kill("SIGTERM");
			return ended;
		},
	};
}

export const startServer = (databaseUrl, env = {}, stdio = "inherit") =>
	start("server/main.ts", { ...env, DATABASE_URL: databaseUrl }, stdio);

export const startWorker = (databaseUrl, stdio = "inherit") => start("server/worker/main.ts", { DATABASE_URL: databaseUrl }, stdio);

/** A worker that is started again where it ends by itself. */
export function keepWorker(databaseUrl, stdio) {
	let worker = startWorker(databaseUrl, stdio);
	let wanted = true;
	const watch = () =>
		worker.ended.then((code) => {
			if (!wanted) return;
			console.error(`A worker ended (${code ?? "killed"}); another one starts`);
			setTimeout(() => {
				if (!wanted) return;
				worker = startWorker(databaseUrl, stdio);
				void watch();
			}, 2000);
		});
	void watch();
	return {
		stop: () => {
			wanted = false;
			return worker.stop();
		},
	};
}
