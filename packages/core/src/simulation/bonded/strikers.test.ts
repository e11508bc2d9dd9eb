import { addBondSet, setBody, setFracture } from "../../shot";
import { shape, shotOf, startEngine } from "../../testing";
import { makeBodyState } from "../engine";
import { showBent } from "./bent";
import { bindGroups, makeBonded } from "./firstFrame";
import { frameOfGroup } from "./groupFrame";
import { makeBondState } from "./state";
import { findStrike } from "./strikers";

/** Metres between the ball and what it is about to strike. */
const AWAY = 0.002;

/** A ball that comes at 1 m/s along z and is just before a block of four pieces that the ground holds. */
async function aboutToStrike() {
	const shot = shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("block", "box", { width: 1, height: 1, depth: 0.4 }, [0, 0.5, 0]),
		setFracture("cut", { object: "block", method: "voronoi", options: { count: 4, seed: 3, gap: 0 } }),
		setBody(["block"], { kind: "active" }),
		addBondSet("bonds", { name: "Bonds", options: { foot: "touching" }, changes: [], hidden: false }),
		shape("ball", "ball", { radius: 0.2, detail: 3 }, [0.13, 0.56, -0.4 - AWAY]),
		setBody(["ball"], { kind: "active", mass: 100, velocity: [0, 0, 1], collider: "sphere" }),
	);
	const { scene, held, engine } = await startEngine(shot);
	const bonded = makeBonded(scene, makeBondState(scene));
	bindGroups(scene, engine, bonded);
	const before = makeBodyState(scene.count);
	engine.readState(before);
	const run = { scene, engine, held, before, after: before, step: 0 };
	const ball = scene.ids.indexOf("ball");
	const block = engine.carrier[scene.bonds.a[0]!]!;
	const struck = { carrier: block, by: new Set([engine.carrier[ball]!]), touching: new Set([ball]), rings: false, isCoarse: false };
	const moment = { now: 0, keyed: [], speedOf: () => ({ velocity: [0, 0, 0], spin: [0, 0, 0] }) as const, mayDivide: false };
	return {
		run,
		bonded,
		/** Where the ball meets the block, by a step of the engine from where all began. */
		points() {
			engine.writeState(before);
			engine.setSweep(ball, 0.02);
			engine.remember(before);
			engine.step();
			const frame = frameOfGroup(run, bonded.net, engine.membersOf(block)[0]!, true, false);
			return findStrike(run, bonded, struck, moment, new Set(), frame).points;
		},
	};
}

test("a contact is as near as what the blow has bent so far, whether the engine has been shown it or not", async () => {
	const { run, bonded, points } = await aboutToStrike();
	const [first, ...others] = points();
	expect(others.length).toBe(0);
	expect(first!.gap).toBeCloseTo(AWAY, 4);
	expect(first!.normal[2]).toBeCloseTo(1, 4);
	const { u } = bonded.state;
	const at = 6 * first!.body;
	// Pushed on by the blow, and turned about the upright through its centre.
	u[at + 2] = 0.003;
	u[at + 4] = 0.01;
	const arm = first!.place[0] - bonded.net.centre[3 * first!.body]!;
	const bent = AWAY + 0.003 - 0.01 * arm;
	expect(Math.abs(0.01 * arm)).toBeGreaterThan(1e-4);
	expect(points()[0]!.gap).toBeCloseTo(bent, 4);
	showBent(run, bonded, run.before, [first!.body]);
	expect(points()[0]!.gap).toBeCloseTo(bent, 4);
	run.engine.dispose();
});

test("what has been bent out of reach in the step is no point of the blow, what springs back into it is", async () => {
	const { run, bonded, points } = await aboutToStrike();
	const { body } = points()[0]!;
	const { u, v } = bonded.state;
	// 8.3 mm are what the ball comes in the step.
	u[6 * body + 2] = 0.012;
	expect(points().length).toBe(0);
	v[6 * body + 2] = -1;
	expect(points().length).toBe(1);
	run.engine.dispose();
});
