import { setBody, setSettings } from "../shot";
import { runShot, shape, shotOf } from "../testing";
import { adding, NO_STOPWATCH, timed } from "./stopwatch";

test("parts within others stop them meanwhile, and nothing is counted twice", () => {
	let now = 0;
	const watch = adding(() => now);
	const work = (ms: number) => {
		now += ms;
	};
	timed(watch, "bonds", () => {
		work(3);
		timed(watch, "engine", () => work(5));
		work(2);
		timed(watch, "engine", () => work(1));
	});
	work(100);
	const told = timed(watch, "storing", () => {
		work(4);
		return "done";
	});
	expect(told).toBe("done");
	expect(() =>
		timed(watch, "forces", () => {
			work(7);
			throw new Error("broken");
		}),
	).toThrow("broken");
	work(50);
	expect(watch.take()).toEqual({ engine: 6, bonds: 5, connectors: 0, forces: 7, storing: 4 });
	expect(watch.take()).toEqual({ engine: 0, bonds: 0, connectors: 0, forces: 0, storing: 0 });
});

test("a run with a stopwatch has the same bytes, and most of its parts are seen", async () => {
	const shot = shotOf(
		setSettings({ lastFrame: 6 }),
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("box", "box", { width: 1, height: 1, depth: 1 }, [0, 0.6, 0]),
		setBody(["box"], { kind: "active" }),
	);
	const watch = adding(() => performance.now());
	const [plain, watched] = [await runShot(shot, 6, NO_STOPWATCH), await runShot(shot, 6, watch)];
	expect(watched.chunks.map(({ poses }) => poses)).toEqual(plain.chunks.map(({ poses }) => poses));
	const { engine, storing, forces } = watch.take();
	expect(Math.min(engine, storing, forces)).toBeGreaterThan(0);
});
