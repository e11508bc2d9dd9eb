// The application's processes: the server, and workers beside it. Each ends when whoever started it is gone.
import { spawn } from "node:child_process";
import { join } from "node:path";
import { ROOT } from "./environment.mjs";
import { supervise } from "./supervise.mjs";

const start = (program, databaseUrl, env, output) =>
	spawn(process.execPath, ["--import", "tsx", program], {
		cwd: join(ROOT, "apps/web"),
		// The channel closes with this process, however that ends.
		stdio: ["ignore", output, "inherit", "ipc"],
		env: { ...process.env, NODE_ENV: "production", ...env, DATABASE_URL: databaseUrl },
	});

/** Where the server answers on this machine. */
export const serverUrl = ({ PORT = 4180, HOST = "127.0.0.1" }) => {
	const host = HOST === "0.0.0.0" ? "127.0.0.1" : HOST === "::" ? "[::1]" : HOST.includes(":") ? `[${HOST}]` : HOST;
	return `http://${host}:${PORT}`;
};

/** Whether the server says that all is well. */
export async function isHealthy(env) {
	const headers = env.RUBBLE_PASSPHRASE ? { Authorization: `Basic ${Buffer.from(`:${env.RUBBLE_PASSPHRASE}`).toString("base64")}` } : {};
	const answer = await fetch(`${serverUrl(env)}/health`, { headers }).catch(() => undefined);
	return answer?.ok === true;
}

export function keepServer(databaseUrl, env = {}, { output = "inherit", onUseless } = {}) {
	const known = { ...process.env, ...env };
	let useless = false;
	return supervise("The server", () => start("server/main.ts", databaseUrl, env, output), {
		onUseless: (code) => {
			useless = true;
			onUseless?.(code);
		},
		ready: async () => {
			for (let i = 0; i < 480 && !useless; i++) {
				if (await isHealthy(known)) return;
				await new Promise((resolve) => setTimeout(resolve, 250));
			}
			if (!useless) throw new Error("The server did not become ready.");
		},
	});
}

export const startWorker = (databaseUrl, output = "inherit") => start("server/worker/main.ts", databaseUrl, {}, output);

export const keepWorker = (databaseUrl, { output = "inherit", onUseless } = {}) =>
	supervise("A worker", () => startWorker(databaseUrl, output), { onUseless });
