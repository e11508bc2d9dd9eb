import { readFileSync } from "node:fs";
import { hashBytes } from "../common";
import { parseShot } from "../shot";
import { SAMPLES, sampleShot } from ".";

test.each(SAMPLES.map(({ id }) => id))("%s is a valid shot, and the pictures it names are those that ship", (id) => {
	const shot = sampleShot(id)!;
	expect(parseShot(JSON.parse(JSON.stringify(shot)))).toMatchObject({ ok: true });
	const { pictures = {} } = SAMPLES.find((sample) => sample.id === id)!;
	for (const [hash, file] of Object.entries(pictures))
		expect(hashBytes(new Uint8Array(readFileSync(`packages/core/pictures/${file}`)))).toBe(hash);
	const used = [...JSON.stringify(shot).matchAll(/asset:([0-9a-f]{64})/g)].map((match) => match[1]);
	expect(Object.keys(pictures)).toEqual(expect.arrayContaining(used));
});
