import { buildBodies } from "../bodies";
import { fromAxisAngle } from "../maths";
import { placeObject, type Shot, setBody } from "../shot";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import { findStartOverlaps, makeScene, rapierEngine } from ".";

const overlapsOf = async (shot: Shot) => {
	const workshop = await makeTestWorkshop();
	const scene = await makeScene(workshop, shot, (await buildBodies(workshop, shot)).bodies);
	return (await findStartOverlaps(scene, rapierEngine)).map(({ a, b, depth }) => ({
		pair: [scene.ids[a], scene.ids[b]].sort().join(),
		depth,
	}));
};

/** A cup that stands on the ground, its floor at 4 cm, and something with corners in it. */
const inCup = (height: number, x = 0) =>
	shotOf(
		shape("cup", "cup", { radius: 0.4, foot: 0.4, height: 0.8, wall: 0.04, segments: 48 }, [0, 0.4, 0]),
		setBody(["cup"], { kind: "passive" }),
		shape("prism", "cylinder", { radius: 0.027, height: 0.09, segments: 6 }),
		placeObject("prism", { translation: [x, height, 0.03], rotation: fromAxisAngle([0, 0, 1], Math.PI / 2) }),
		setBody(["prism"], { kind: "active", collider: "hull" }),
	);

test("what lies on a mesh is in it by as much as its corners are, whatever triangles that is made of", async () => {
	// Its corners are 27 mm below its middle.
	expect(await overlapsOf(inCup(0.04 + 0.027 - 0.003, 0.05))).toEqual([{ pair: "cup,prism", depth: expect.closeTo(0.003, 4) }]);
	expect(await overlapsOf(inCup(0.04 + 0.027 + 0.001, 0.05))).toEqual([]);
});

test("what has gone through a thin wall of a mesh is in it by the way out of the wall", async () => {
	// It sticks in the wall, which is 4 cm thick, and looks out on both sides.
	const [found, ...more] = await overlapsOf(inCup(0.4, 0.38));
	expect(more).toEqual([]);
	expect(found!.pair).toBe("cup,prism");
	expect(found!.depth).toBeGreaterThan(0.012);
	expect(found!.depth).toBeLessThan(0.021);
});
