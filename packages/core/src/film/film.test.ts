import type { Pixels } from "../colouring";
import { drawMesh, makeMesh } from "../mesh";
import { drawFrame, type FilmItem, type FilmView } from ".";

const view: FilmView = {
	width: 160,
	height: 90,
	cameraAt: () => ({ translation: [0, 0, 5], rotation: [0, 0, 0, 1], fieldOfView: 53.13010235415598 }),
	sunAt: () => ({ direction: [0, -1, 0], colour: [2, 2, 2] }),
	lampsAt: () => [],
	backdrop: [0, 0, 1],
	sky: 0,
	ground: undefined,
};

/** A square across an axis, `size` metres, two triangles. */
function square(axis: "y" | "z", size: number, translation: [number, number, number], colour: [number, number, number]): FilmItem {
	const h = size / 2;
	const corners = axis === "z" ? [-h, -h, 0, h, -h, 0, h, h, 0, -h, h, 0] : [-h, 0, h, h, 0, h, h, 0, -h, -h, 0, -h];
	const { positions, normals, indices } = drawMesh(makeMesh(corners, [0, 1, 2, 0, 2, 3]));
	const paint: FilmItem["paint"] = (_, __, ___, ____, into) => {
		for (let k = 0; k < 3; k++) into[k] = colour[k]!;
	};
	return { positions, normals, indices, translation, rotation: [0, 0, 0, 1], scale: 1, paint };
}

const pixel = ({ width, rgb }: Pixels, x: number, y: number) => [...rgb.subarray(3 * (y * width + x), 3 * (y * width + x) + 3)];
const lit = { ...view, sky: 1, sunAt: () => undefined };

test("a square of known size covers just the pixels that it should, in front of what is farther", () => {
	// At a depth of 5 m the picture is 5 m high: 90 pixels; 2 m are 36.
	const picture = drawFrame([square("z", 2, [0, 0, 0], [1, 0, 0]), square("z", 4, [0, 0, -1], [0, 1, 0])], lit, 1);
	let red = 0;
	for (let i = 0; i < picture.rgb.length; i += 3) if (picture.rgb[i]! > 0 && picture.rgb[i + 1] === 0) red++;
	expect(red).toBe(36 * 36);
	expect(pixel(picture, 80, 45)[1]).toBe(0);
	// The green one is 4 m wide 6 m away: 60 pixels.
	expect(pixel(picture, 80, 45 - 29)[1]).toBeGreaterThan(100);
	expect(pixel(picture, 80, 45 - 31)).toEqual([0, 0, 255]);
});

test("light falls off with the slant, and what stands in the sun's way throws a shadow just there", () => {
	const floor = square("y", 6, [0, -1, 0], [1, 1, 1]);
	const lid = square("y", 1, [0, 1, 0], [1, 1, 1]);
	const open = drawFrame([floor], view, 1);
	const shaded = drawFrame([floor, lid], view, 1);
	// 1 m below the camera's axis, 5 m away: 18 pixels below the middle.
	expect(pixel(open, 80, 45 + 18)[0]).toBeGreaterThan(200);
	expect(pixel(shaded, 80, 45 + 18)).toEqual([0, 0, 0]);
	// 0.7 m to the side there is no shadow any more.
	expect(pixel(shaded, 80 + 14, 45 + 18)).toEqual(pixel(open, 80 + 14, 45 + 18));
	const slanted = drawFrame([floor], { ...view, sunAt: () => ({ direction: [0, -1, -Math.sqrt(3)], colour: [2, 2, 2] }) }, 1);
	const linear = (value: number) => ((value / 255 + 0.055) / 1.055) ** 2.4;
	expect(linear(pixel(slanted, 80, 63)[0]!) / linear(pixel(open, 80, 63)[0]!)).toBeCloseTo(0.5, 1);
});

test("what reaches behind the camera is cut off there, and the ground ends in the backdrop", () => {
	const long = square("y", 40, [0, -1, 0], [1, 0, 0]);
	const picture = drawFrame([long], { ...lit, ground: { height: -2, colour: [0.5, 0.5, 0.5] } }, 1);
	// The lowest row shows the square right below the camera, the horizon the backdrop.
	expect(pixel(picture, 80, 89)[0]).toBeGreaterThan(100);
	expect(pixel(picture, 80, 45)).toEqual([0, 0, 255]);
	expect(pixel(picture, 80, 20)).toEqual([0, 0, 255]);
});

test("the same scene gives the same bytes", () => {
	const items = [square("z", 2, [0.3, 0.2, 0], [0.8, 0.3, 0.1]), square("y", 6, [0, -1, 0], [1, 1, 1])];
	expect(drawFrame(items, view, 3)).toEqual(drawFrame(items, view, 3));
});
