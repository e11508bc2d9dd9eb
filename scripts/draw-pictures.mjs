// Draws the two made-up pictures of masonry that ship with the application: `node scripts/draw-pictures.mjs`.
// Deterministic: the same bytes each time.
import { mkdirSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { ROOT } from "./environment.mjs";

const { encode } = await import(pathToFileURL(createRequire(join(ROOT, "packages/core/package.json")).resolve("fast-png")).href);
const folder = join(ROOT, "packages/core/pictures");
mkdirSync(folder, { recursive: true });

/** A number from 0 to 1 for whole numbers. */
function noise(x, y, channel) {
	let h = (Math.imul(x, 374761393) + Math.imul(y, 668265263) + Math.imul(channel, 2246822519)) | 0;
	h = Math.imul(h ^ (h >>> 13), 1274126177);
	h = Math.imul(h ^ (h >>> 16), 2246822519);
	return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
}

function draw(name, width, height, colourAt) {
	const data = new Uint8Array(3 * width * height);
	for (let y = 0; y < height; y++)
		for (let x = 0; x < width; x++) {
			const grain = 6 * Math.floor(4 * noise(x, y, 1)) - 9;
			colourAt(x, y).forEach((value, k) => {
				data[3 * (y * width + x) + k] = Math.max(0, Math.min(255, Math.round(value + grain)));
			});
		}
	writeFileSync(join(folder, `${name}.png`), encode({ width, height, data, channels: 3, depth: 8 }));
}

// Bricks: 12 courses of 6, every second one shifted by half a brick (5 whole ones and 2 halves): 78 in all.
const [W, H, COLUMNS, COURSES, JOINT] = [576, 432, 6, 12, 8];
draw("bricks", W, H, (x, y) => {
	const course = Math.floor((y * COURSES) / H);
	const shifted = course % 2 === 1 ? 0.5 : 0;
	const along = (x * COLUMNS) / W + shifted;
	const column = Math.floor(along);
	const toHead = Math.min(along - column, 1 - (along - column)) * (W / COLUMNS);
	const inCourse = (y * COURSES) / H - course;
	const toBed = Math.min(inCourse, 1 - inCourse) * (H / COURSES);
	// The rim of the picture is no joint.
	const atRim = (y < H / COURSES / 2 && inCourse < 0.5) || (y > H - H / COURSES / 2 && inCourse > 0.5);
	const atSide = (x < W / COLUMNS / 4 && !shifted) || (x > W - W / COLUMNS / 4 && !shifted);
	const wobble = 0.7 * Math.sin(x / 23 + course) + 0.6 * Math.sin(y / 17 + column);
	const joint = Math.min(atRim ? 99 : toBed, atSide ? 99 : toHead) + wobble < JOINT / 2;
	if (joint) return [74, 70, 66];
	const tone = 40 * (noise(column, course, 2) - 0.5);
	return [172 + tone, 104 + 0.7 * tone, 82 + 0.5 * tone];
});

// Rubble: 80 stones around scattered middles, joints where two middles are about equally far.
const STONES = Array.from({ length: 80 }, (_, i) => {
	const [column, row] = [i % 10, Math.floor(i / 10)];
	return [((column + 0.5 + 0.75 * (noise(i, 3, 5) - 0.5)) / 10) * W, ((row + 0.5 + 0.75 * (noise(i, 4, 6) - 0.5)) / 8) * H];
});
draw("rubble", W, H, (x, y) => {
	let first = Infinity;
	let second = Infinity;
	let stone = 0;
	const px = x + 3 * Math.sin(y / 13) + 2 * Math.sin(x / 7);
	const py = y + 3 * Math.sin(x / 15) + 2 * Math.sin(y / 9);
	STONES.forEach(([sx, sy], i) => {
		const d = Math.hypot(px - sx, py - sy);
		if (d < first) {
			second = first;
			first = d;
			stone = i;
		} else if (d < second) second = d;
	});
	if (second - first < 7) return [62, 62, 60];
	const tone = 46 * (noise(stone, 9, 7) - 0.5);
	return [150 + tone, 148 + tone, 138 + 0.8 * tone];
});
