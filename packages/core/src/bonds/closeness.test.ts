import { buildBodies } from "../bodies";
import { addBondSet, type OptionValues, setBody } from "../shot";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import { makeBonds } from ".";

/** Bonds by closeness between blocks in a row, 5 mm apart; by the ids of their ends. */
async function ties(options: OptionValues): Promise<string[]> {
	const shot = shotOf(
		shape("a", "box", { width: 1, height: 1, depth: 1 }, [0, 0, 0]),
		shape("b", "box", { width: 1, height: 1, depth: 1 }, [1.005, 0, 0]),
		shape("c", "box", { width: 3, height: 1, depth: 1 }, [3.01, 0, 0]),
		setBody(["a", "b", "c"], { kind: "active" }),
		addBondSet("bonds", { name: "Bonds", options: { by: "near", among: "all", reach: 0.01, ...options }, changes: [], hidden: false }),
	);
	const workshop = await makeTestWorkshop();
	const { bodies } = await buildBodies(workshop, shot);
	const { a, b, count } = await makeBonds(workshop, shot, bodies);
	return Array.from({ length: count }, (_, k) => `${bodies[a[k]!]!.id}${bodies[b[k]!]!.id}`);
}

test("bonds by closeness: no wider gap, no farther from middle to middle, and no more per piece than is said", async () => {
	expect(await ties({})).toEqual(["ab", "bc"]);
	expect(await ties({ reach: 0.004 })).toEqual([]);
	// From middle to middle: 1.005 and 2.005 m.
	expect(await ties({ radius: 1.5 })).toEqual(["ab"]);
	expect(await ties({ radius: 2.1 })).toEqual(["ab", "bc"]);
	expect(await ties({ radius: 1 })).toEqual([]);
	expect(await ties({ most: 1 })).toHaveLength(1);
	expect(await ties({ among: "own" })).toEqual([]);
});
