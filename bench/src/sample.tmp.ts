import { sampleShot } from "/work/main/packages/core/src/samples";
import { runShot } from "/work/main/packages/core/src/testing";

const id = process.argv[2]!,
	watch = process.argv[3]!.split(","),
	until = Number(process.argv[4] ?? 0) || undefined;
const t = Date.now();
const run = await runShot(sampleShot(id)!, until);
console.log("ms", Date.now() - t, "bodies", run.scene.count, "bonds", run.scene.bonds.count, "joints", run.scene.joints.length);
const last = until ?? run.scene.settings.lastFrame;
for (const w of watch)
	console.log(
		w,
		Array.from({ length: 13 }, (_, k) => 1 + Math.round((k * (last - 1)) / 12))
			.map(
				(f) =>
					f +
					":" +
					run
						.at(w, f)
						.map((v) => v.toFixed(2))
						.join(","),
			)
			.join("  "),
	);
const by: Record<string, number> = {};
for (const c of run.chunks)
	c.events.kind.forEach((k, i) => {
		if (k >= 3) by[`${c.events.frame[i]}:${k}`] = (by[`${c.events.frame[i]}:${k}`] ?? 0) + 1;
	});
console.log(JSON.stringify(by));
console.log(
	"energy",
	run.chunks
		.flatMap((c) => [...c.energy])
		.map((e) => e.toFixed(0))
		.join(" "),
);
console.log("awake", run.chunks.flatMap((c) => [...c.awake]).join(" "));
