// Turns the shipped typeface into the outlines that the shape “Letters” is made from: `node scripts/make-font.mjs`.
// Atkinson Hyperlegible Bold, Braille Institute of America, SIL Open Font License 1.1 (see LICENSE beside the outlines).
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import manifold from "manifold-3d";
import opentype from "opentype.js";
import { ROOT } from "./environment.mjs";

const source = join(ROOT, "node_modules/@fontsource/atkinson-hyperlegible");
const bytes = readFileSync(join(source, "files/atkinson-hyperlegible-latin-700-normal.woff"));
const font = opentype.parse(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
const glyphs = {};
/** Lines for each curve. */
const CURVE = 5;
const solids = await manifold();
solids.setup();
const { CrossSection } = solids;
for (let code = 32; code < 256; code++) {
	if (code > 126 && code < 161) continue;
	const glyph = font.charToGlyph(String.fromCodePoint(code));
	if (glyph.index === 0) continue;
	const contours = [];
	for (const { type, x, y, x1, y1 } of glyph.path.commands) {
		const [fx, fy] = contours.at(-1)?.at(-1) ?? [0, 0];
		if (type === "M") contours.push([[x, y]]);
		else if (type === "L") contours.at(-1).push([x, y]);
		else if (type === "Q")
			for (let s = 1; s <= CURVE; s++) {
				const t = s / CURVE;
				const [a, b, c] = [(1 - t) * (1 - t), 2 * t * (1 - t), t * t];
				contours.at(-1).push([a * fx + b * x1 + c * x, a * fy + b * y1 + c * y]);
			}
		else if (type !== "Z") throw new Error(`glyph ${code}: ${type}`);
	}
	// Accents and tails that overlap their letter are united with it; outer contours come out counter-clockwise.
	const united = contours.length > 0 ? new CrossSection(contours, "NonZero").simplify(1.5).toPolygons() : [];
	glyphs[String.fromCodePoint(code)] = [glyph.advanceWidth, united.map((contour) => contour.flat().map((n) => Math.round(n)))];
}
const folder = join(ROOT, "packages/core/src/shapes/font");
mkdirSync(folder, { recursive: true });
const capital = Math.round(font.tables.os2.sCapHeight);
writeFileSync(
	join(folder, "outlines.ts"),
	`// Made by scripts/make-font.mjs.\n\n/** Height of a capital, in the units of the outlines. */\nexport const CAPITAL = ${capital};\n\n/** By character: its width, and its contours, 2 numbers per point; outer ones counter-clockwise, holes clockwise. */\nexport const GLYPHS: Readonly<Record<string, readonly [number, readonly (readonly number[])[]]>> = JSON.parse(\n\t${JSON.stringify(JSON.stringify(glyphs))},\n);\n`,
);
copyFileSync(join(source, "LICENSE"), join(folder, "LICENSE"));
