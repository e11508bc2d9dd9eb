/** Numbers that look drawn by lot, the same for the same seed (Steele and others' SplitMix, 32 bits). */
export function lots(seed: number): (below: number) => number {
	let state = seed >>> 0;
	return (below) => {
		state = (state + 0x9e3779b9) >>> 0;
		let h = state;
		h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
		h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
		h ^= h >>> 16;
		return (h >>> 0) % below;
	};
}

/** Texts and numbers that programs stumble over. */
const HOSTILE = [
	"0",
	"-1",
	"1e308",
	"NaN",
	"4294967295",
	"2147483648",
	"9007199254740993",
	"null",
	"{}",
	"[]",
	"__proto__",
	"constructor",
	"\0",
	"\ud800",
	"999999999999",
	"[[[[[[[[[[",
	'"',
];

/** Bytes as a bad disk, a bad line or a bad mind would leave them: one to five changes. */
export function mutateBytes(bytes: Uint8Array, lot: (below: number) => number): Uint8Array {
	let out = [...bytes];
	for (let n = 1 + lot(5); n > 0; n--) {
		const at = lot(Math.max(1, out.length));
		const length = 1 + lot(Math.min(64, Math.max(1, out.length - at)));
		switch (lot(8)) {
			case 0:
				out[at] = lot(256);
				break;
			case 1:
				out[at] = (out[at] ?? 0) ^ (1 << lot(8));
				break;
			case 2:
				out.splice(at, length);
				break;
			case 3:
				out.splice(at, 0, ...out.slice(at, at + length));
				break;
			case 4:
				out = out.slice(0, at);
				break;
			case 5:
				for (let k = 0; k < 4 && at + k < out.length; k++) out[at + k] = [0, 255, 127, 128][lot(4)]!;
				break;
			case 6:
				out.splice(at, 0, ...new TextEncoder().encode(HOSTILE[lot(HOSTILE.length)]!));
				break;
			default: {
				// A number of a text.
				const text = new TextDecoder("latin1").decode(Uint8Array.from(out));
				const numbers = [...text.matchAll(/\d+/g)];
				const one = numbers[lot(Math.max(1, numbers.length))];
				if (one) out.splice(one.index, one[0].length, ...new TextEncoder().encode(HOSTILE[lot(HOSTILE.length)]!));
			}
		}
	}
	return Uint8Array.from(out);
}

/** A list or an object, as what it is: values under keys. */
type Home = Record<string | number, unknown>;

/** Plain JSON with one to four of its values put wrong; the value itself stays as it is. */
export function mutateValue(value: unknown, lot: (below: number) => number): unknown {
	const copy = structuredClone({ value });
	for (let n = 1 + lot(4); n > 0; n--) {
		const places: { readonly home: Home; readonly key: string | number }[] = [];
		const rest: Home[] = [copy];
		for (let home = rest.pop(); home !== undefined; home = rest.pop())
			for (const key of Array.isArray(home) ? home.keys() : Object.keys(home)) {
				if (home !== copy || key === "value") places.push({ home, key });
				if (typeof home[key] === "object" && home[key] !== null) rest.push(home[key] as Home);
			}
		const { home, key } = places[lot(places.length)]!;
		const wrong = [
			null,
			-1,
			0,
			1e300,
			1e-300,
			Number.MAX_SAFE_INTEGER,
			"",
			"\0",
			"\ud800",
			"constructor",
			"*".repeat(400),
			[],
			{},
			true,
			[[[[[[]]]]]],
			{ constructor: 1 },
			JSON.parse('{"__proto__":{"a":1}}'),
			"x".repeat(3000),
		];
		const pick = lot(wrong.length + 3);
		if (pick < wrong.length) home[key] = structuredClone(wrong[pick]);
		else if (pick === wrong.length) {
			if (Array.isArray(home)) home.splice(Number(key), 1);
			else if (home !== copy) delete home[key];
		} else if (pick === wrong.length + 1) {
			if (!Array.isArray(home) && home !== copy) home[`${key}x`] = home[key];
		} else home[key] = { deep: home[key] };
	}
	return copy.value;
}

/** Another seed each time, printed, so that what is found can be found again: `FUZZ_SEED=…`. */
export function fuzzSeed(what: string): number {
	const seed = Number(process.env.FUZZ_SEED ?? Math.floor(Math.random() * 2 ** 31));
	process.stderr.write(`${what}: FUZZ_SEED=${seed}\n`);
	return seed;
}

/** What no sentence for a person may hold: words of engines and libraries. */
export const RAW =
	/undefined|is not a function|Cannot (read|set|destructure|convert)|not iterable|Invalid (typed )?array|RangeError|TypeError|Maximum call|Unexpected token|in JSON at|outside the bounds|ownership of|borrowed|NaN\b/;
