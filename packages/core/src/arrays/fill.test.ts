import { area, hollowOf, volume } from "../mesh";
import { buildShape, shapeById } from "../shapes";
import { addArray, placeObject, setBody, setSettings } from "../shot";
import { runShot, shape, shotOf } from "../testing";
import { estimateFill } from ".";

test("as many balls as the estimate says fill a cup to its brim when they are poured in, within 15 %", async () => {
	const cup = { radius: 0.5, foot: 0.5, height: 0.6, wall: 0.03, segments: 32 };
	const ball = buildShape(shapeById("ball")!, { radius: 0.08, detail: 3 });
	const hollow = hollowOf(buildShape(shapeById("cup")!, cup))!;
	const { count } = estimateFill(hollow.volume, 2 * (cup.radius - cup.wall), [{ volume: volume(ball), area: area(ball) }]);
	// A quarter more than fit, dropped in from a column above: the rest heaps up over the brim or falls beside.
	const shot = shotOf(
		setSettings({ lastFrame: 140 }),
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("cup", "cup", cup),
		placeObject("cup", { translation: [0, 0.3, 0] }),
		setBody(["cup"], { kind: "passive" }),
		shape("ball", "ball", { radius: 0.08, detail: 3 }),
		addArray({
			id: "balls",
			name: "Balls",
			source: {
				kind: "array",
				sources: ["ball"],
				layout: "grid",
				options: { columns: 4, rows: 4, layers: Math.ceil((1.25 * count) / 16), stepX: 0.18, stepY: 0.2, stepZ: 0.18, jitter: 0.008 },
			},
			translation: [0, 0.2, 0],
		}),
		setBody(["balls"], { kind: "active", friction: 0.3 }),
	);
	const run = await runShot(shot);
	const inside = run.scene.ids
		.filter((id) => id.startsWith("balls:"))
		.map((id) => run.at(id, 140))
		.filter(([x, y, z]) => Math.hypot(x, z) < cup.radius && y > 0.03 && y < cup.height);
	expect(inside.length / count).toBeGreaterThan(0.85);
	expect(inside.length / count).toBeLessThan(1.15);
});
