import { buildPieces, makeWorkshop, shelvePieces } from "../bodies";
import { type Shot, setFracture } from "../shot";
import { loadSolids } from "../solid";
import { shape, shotOf } from "../testing";
import { decodePieces, encodePieces, type PiecesShelf } from ".";

const block = (method: string, options: Record<string, number>): Shot =>
	shotOf(shape("block", "box", { width: 1, height: 1, depth: 1 }), setFracture("f", { object: "block", method, options }));

async function workshopWith(shelf?: PiecesShelf) {
	const none = async () => Promise.reject(new Error("none"));
	return makeWorkshop(await loadSolids(), { loadAsset: none, loadPicture: none, shelf });
}

async function piecesOf(shot: Shot) {
	const made = await buildPieces(await workshopWith(), shot, "block");
	if (!made?.ok) throw new Error("not broken");
	return made.value;
}

test("pieces come back from bytes as they were, those beside a crack too", async () => {
	const whole = await piecesOf(block("voronoi", { count: 40 }));
	const vertices = whole.pieces[3]!.mesh.positions.length / 3;
	const opening = { closed: new Float32Array(3 * vertices).fill(0.01), reached: new Float32Array(vertices).fill(0.5) };
	const pieces = { ...whole, pieces: whole.pieces.map((piece, n) => (n === 3 ? { ...piece, opening } : piece)) };
	const bytes = encodePieces(pieces);
	expect(decodePieces(bytes)).toEqual({ ok: true, value: pieces });
	expect(encodePieces(pieces)).toEqual(bytes);
});

test("damaged bytes are no pieces, and say so", async () => {
	const bytes = encodePieces(await piecesOf(block("voronoi", { count: 5 })));
	for (const damaged of [bytes.subarray(0, 40), bytes.subarray(0, bytes.length - 100), new Uint8Array(3), bytes.map((byte) => byte ^ 0xff)])
		expect(decodePieces(damaged)).toMatchObject({ ok: false, problems: [{ message: expect.stringMatching(/damaged/) }] });
});

test("what was broken on one machine is taken from the shelf on another, and a broken shelf is no hindrance", async () => {
	const kept = new Map<string, Uint8Array>();
	let asked = 0;
	const shelf: PiecesShelf = {
		load: async (name) => {
			asked++;
			return kept.get(name);
		},
		keep: async (name, bytes) => void kept.set(name, bytes),
	};
	const shot = block("voronoi", { count: 30, seed: 3 });
	const first = await workshopWith(shelf);
	const made = await buildPieces(first, shot, "block");
	// So few are not worth it unless asked for.
	expect(kept.size).toBe(0);
	await shelvePieces(first, shot, "block");
	expect(kept.size).toBe(1);
	expect(await buildPieces(await workshopWith(shelf), shot, "block")).toEqual(made);
	expect(asked).toBe(2);
	// Other pieces have another name.
	await buildPieces(await workshopWith(shelf), block("voronoi", { count: 30, seed: 4 }), "block");
	expect([asked, kept.size]).toEqual([3, 1]);
	const lost: PiecesShelf = { load: async () => Promise.reject(new Error("away")), keep: async () => Promise.reject(new Error("away")) };
	expect(await buildPieces(await workshopWith(lost), shot, "block")).toEqual(made);
});
