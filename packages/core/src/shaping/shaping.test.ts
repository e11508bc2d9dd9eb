import { buildMesh } from "../bodies";
import { cos, sin } from "../maths";
import { bounds, boundsSize, solid, topology } from "../mesh";
import { edit, setBend, setNumberKey, tickOfFrame } from "../shot";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import { changesShape, keyTicks, meshAt, shapedAt } from ".";

const beam = shotOf(shape("beam", "box", { width: 4, height: 0.2, depth: 0.5 }));

test("a beam that is bent is an arc of its own length and volume, closed as before", async () => {
	const angle = 1.2;
	const shot = edit(beam, setBend("beam", { along: 0, toward: 1, angle })).shot;
	const built = await buildMesh(await makeTestWorkshop(), shot, "beam");
	if (!built.ok) throw new Error(built.problems[0]!.message);
	const mesh = built.value;
	expect(topology(mesh).closed).toBe(true);
	// Rows of vertices stand on chords of the arc, so that a little is lost at each.
	expect(solid(mesh).volume / 0.4).toBeGreaterThan(0.9995);
	expect(solid(mesh).volume / 0.4).toBeLessThanOrEqual(1 + 1e-6);
	const radius = 4 / angle;
	const { max, min } = bounds(mesh);
	// The lower edge of the ends is farthest out, its upper edge highest.
	expect(max[0]).toBeCloseTo((radius + 0.1) * sin(angle / 2), 5);
	expect(max[1]).toBeCloseTo(radius - (radius - 0.1) * cos(angle / 2), 5);
	expect(min[1]).toBeCloseTo(-0.1, 5);
});

test("numbers of a shape and its bend go by their keys, and its faces stay the same", () => {
	const keyed = [
		setBend("beam", { along: 0, toward: 1, angle: 0 }),
		setNumberKey("beam", "height", 0, 0.2),
		setNumberKey("beam", "height", 1200, 0.6),
		setNumberKey("beam", "bend", 600, 0),
		setNumberKey("beam", "bend", 1200, 0.5),
	].reduce((shot, command) => edit(shot, command).shot, beam);
	expect(changesShape(keyed, "beam")).toBe(true);
	expect(keyTicks(keyed.objects.beam!)).toEqual([0, 600, 1200]);
	expect(shapedAt(keyed.objects.beam!, 900).bend!.angle).toBeCloseTo(0.25, 12);
	const half = meshAt(keyed, "beam", 600, undefined);
	expect(boundsSize(bounds(half))[1]).toBeCloseTo(0.4, 6);
	expect(Array.from(meshAt(keyed, "beam", 1200, undefined).triangles)).toEqual(Array.from(half.triangles));
});

test("what cannot be is said: folds, counts that change, an axis bent towards itself", async () => {
	const workshop = await makeTestWorkshop();
	const problemOf = async (...commands: Parameters<typeof edit>[1][]) => {
		const shot = commands.reduce((before, command) => edit(before, command).shot, beam);
		const mesh = await buildMesh(workshop, shot, "beam");
		return mesh.ok ? undefined : mesh.problems[0]!.message;
	};
	expect(await problemOf(setBend("beam", { along: 1, toward: 0, angle: 1 }))).toMatch(/folds over itself: it can bend by 5\.73° at most/);
	expect(await problemOf(setBend("beam", { along: 1, toward: 1, angle: 1 }))).toMatch(/towards the axis/);
	const coil = edit(
		shotOf(shape("beam", "coil", { radius: 0.3, wire: 0.03, turns: 6, pitch: 0.12, sides: 16 })),
		setNumberKey("beam", "turns", 0, 6),
	).shot;
	const wound = edit(coil, setNumberKey("beam", "turns", tickOfFrame(coil.settings, 20), 9)).shot;
	const mesh = await buildMesh(workshop, wound, "beam");
	expect(mesh.ok ? "" : mesh.problems[0]!.message).toMatch(/change how many faces/);
});
