import { createServer, request, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import express from "express";
import { door, isLoopback, listeningProblem } from "./door";

const servers: Server[] = [];
afterAll(() => Promise.all(servers.map((server) => new Promise((resolve) => server.close(resolve)))));

/** An application behind the door; gives what it answers to a request with these headers. */
async function behind(options: Parameters<typeof door>[0]) {
	const app = express();
	app.use(door(options));
	app.all("/{*rest}", (_, response) => void response.send("in"));
	const server = createServer(app).listen(0, "127.0.0.1");
	servers.push(server);
	await new Promise((resolve) => server.once("listening", resolve));
	const { port } = server.address() as AddressInfo;
	return (method: string, headers: Record<string, string>) =>
		new Promise<number>((resolve, reject) => {
			const asked = request(
				{ port, host: "127.0.0.1", method, path: "/shots", headers: { host: `localhost:${port}`, ...headers } },
				(response) => {
					response.resume();
					resolve(response.statusCode!);
				},
			);
			asked.once("error", reject);
			asked.end();
		});
}

test("only names of this machine are answered: a foreign name that leads here (DNS rebinding) is not", async () => {
	const ask = await behind({ host: "127.0.0.1", passphrase: "" });
	for (const host of ["localhost", "127.0.0.1:4180", "[::1]:4180", "127.8.8.8"])
		expect([host, await ask("GET", { host })]).toEqual([host, 200]);
	for (const host of ["harbour.example", "localhost.harbour.example", "10.0.0.7:4180", "a b"])
		expect([host, await ask("GET", { host })]).toEqual([host, expect.not.stringMatching("200")]);
	expect(await ask("GET", { host: "harbour.example" })).toBe(421);
	expect(await ask("POST", { host: "harbour.example" })).toBe(421);
});

test("other origins neither read nor write, whatever they call it; links from them can be followed", async () => {
	const ask = await behind({ host: "127.0.0.1", passphrase: "" });
	const host = "localhost:4180";
	expect(await ask("POST", { host, origin: "http://localhost:4180" })).toBe(200);
	for (const origin of ["http://harbour.example", "http://localhost:9999", "null", "junk"])
		for (const method of ["GET", "POST"])
			expect([origin, await ask(method, { host, origin, "content-type": "text/plain" })]).toEqual([origin, 403]);
	expect(await ask("POST", { host, "sec-fetch-site": "cross-site" })).toBe(403);
	expect(await ask("GET", { host, "sec-fetch-site": "cross-site", "sec-fetch-mode": "no-cors", "sec-fetch-dest": "image" })).toBe(403);
	expect(await ask("GET", { host, "sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate", "sec-fetch-dest": "document" })).toBe(200);
	expect(await ask("POST", { host, "sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate", "sec-fetch-dest": "document" })).toBe(403);
});

test("with a passphrase every request needs it, under any name", async () => {
	const ask = await behind({ host: "0.0.0.0", passphrase: "salt marsh" });
	const basic = (text: string) => ({ authorization: `Basic ${Buffer.from(text).toString("base64")}` });
	expect(await ask("GET", {})).toBe(401);
	expect(await ask("GET", basic("me:salt"))).toBe(401);
	expect(await ask("GET", basic("me:salt marshes"))).toBe(401);
	expect(await ask("GET", { authorization: "Bearer salt marsh" })).toBe(401);
	expect(await ask("GET", basic("me:salt marsh"))).toBe(200);
	expect(await ask("GET", { ...basic(":salt marsh"), host: "harbour.example" })).toBe(200);
});

test("listening where others come is refused without a passphrase", () => {
	for (const host of ["127.0.0.1", "localhost", "::1"]) expect([isLoopback(host), listeningProblem(host, "")]).toEqual([true, undefined]);
	for (const host of ["0.0.0.0", "::", "192.168.1.5", "harbour.example", "127.0.0.1.example"]) {
		expect(listeningProblem(host, "")).toMatch(/RUBBLE_PASSPHRASE/);
		expect(listeningProblem(host, "salt marsh")).toBeUndefined();
	}
	expect(listeningProblem("127.0.0.1", "short")).toMatch(/8 characters/);
});
