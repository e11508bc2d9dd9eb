import { expect, test } from "@jest/globals";
import { isPassing, throughOutages } from "./outage.server";

const failing = (times: number, error: Error) => {
	let asked = 0;
	return async () => {
		if (asked++ < times) throw error;
		return asked;
	};
};
const away = Object.assign(new Error("Failed query"), { cause: Object.assign(new Error("terminating connection"), { code: "57P01" }) });

test("what is asked while the database is away is asked again", async () => {
	expect(await throughOutages(failing(2, away))).toBe(3);
});

test("what the database refuses is not asked again", async () => {
	const refused = Object.assign(new Error("duplicate key"), { code: "23505" });
	const ask = failing(1, refused);
	await expect(throughOutages(ask)).rejects.toBe(refused);
	expect(await ask()).toBe(2);
});

test.each([
	[{ code: "ECONNREFUSED" }, true],
	[{ code: "08006" }, true],
	[{ cause: { code: "53300" } }, true],
	[{ cause: new Error("Client has encountered a connection error and is not queryable") }, true],
	[{ code: "23505" }, false],
	[new Error("Nothing takes part in the simulation"), false],
])("%p passes: %p", (error, passing) => expect(isPassing(error)).toBe(passing));
