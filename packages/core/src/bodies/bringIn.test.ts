import { sampleShot } from "../samples";
import { edit, emptyShot, parseShot, setBody, setSettings } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { bringIn, buildBodies } from ".";

const counter = () => {
	let n = 0;
	return () => `new${n++}`;
};

test.each(["sign-letters", "slipway-stack", "float-hopper", "breakwater-strike"])(
	"%s comes into another shot whole: same bodies and masses, in a world of its own, and undone as one step",
	async (id) => {
		const other = sampleShot(id)!;
		const host = shotOf(
			setSettings({ gravity: [0, -1, 0] }),
			shape("crate", "box", { width: 1, height: 1, depth: 1 }),
			setBody(["crate"], { kind: "active" }),
		);
		const { shot } = edit(host, bringIn(other, counter()));
		expect(parseShot(JSON.parse(JSON.stringify(shot)))).toEqual({ ok: true, value: shot });
		const workshop = await makeTestWorkshop();
		const [alone, both] = [await buildBodies(workshop, other), await buildBodies(workshop, shot)];
		expect(both.problems).toEqual([]);
		expect(both.bodies).toHaveLength(alone.bodies.length + 1);
		const brought = both.bodies.filter(({ path }) => path.startsWith(`${other.name}/`));
		expect(brought.map(({ mass, settings: { kind } }) => [mass, kind])).toEqual(
			alone.bodies.map(({ mass, settings: { kind } }) => [mass, kind]),
		);
		expect(new Set(brought.map(({ settings }) => shot.worlds[settings.world]?.name))).toEqual(new Set([other.name]));
		expect(Object.values(shot.worlds)[0]!.gravity).toEqual(other.settings.gravity);
	},
);

test("what was brought in falls by its own gravity and does not meet what was there", async () => {
	const other = shotOf(
		setSettings({ gravity: [0, -2, 0] }),
		shape("ball", "ball", { radius: 0.2, detail: 2 }, [0, 3, 0]),
		setBody(["ball"], { kind: "active" }),
	);
	const host = shotOf(
		setSettings({ lastFrame: 25 }),
		shape("floor", "box", { width: 4, height: 0.2, depth: 4 }, [0, 2.5, 0]),
		setBody(["floor"], { kind: "passive" }),
	);
	const { shot } = edit(host, bringIn({ ...other, name: "Other" }, counter()));
	const run = await runShot(shot);
	const ball = run.scene.ids[run.scene.paths.indexOf("Other/ball")]!;
	expect(run.at(ball, 25)[1]).toBeCloseTo(3 - 1, 1);
	expect(emptyShot("x").worlds).toEqual({});
});
