import type { Body, BuiltShot } from "@rubble/core/bodies";
import { buildBodies, buildPieces, decodePlaces, makeWorkshop, shelvePieces } from "@rubble/core/bodies";
import { withCrumbs } from "@rubble/core/bonds";
import type { Outcome, Progress } from "@rubble/core/common";
import { decodeMesh, readPicture } from "@rubble/core/formats";
import { type AssetRef, assetHash, type Id, type Shot } from "@rubble/core/shot";
import { makeScene, type SimScene } from "@rubble/core/simulation";
import { loadSolids } from "@rubble/core/solid";
import { getBlob } from "../../app/data/blobs.server";
import { getDerived, putDerived } from "../../app/data/derived.server";

export async function loadBytes(asset: AssetRef): Promise<Uint8Array> {
	const bytes = await getBlob(assetHash(asset));
	if (!bytes) throw new Error(`An asset of the shot is not stored (${assetHash(asset).slice(0, 12)}…)`);
	return new Uint8Array(bytes);
}

const read = async <T>(asset: AssetRef, decode: (bytes: Uint8Array) => Outcome<T>): Promise<T> => {
	const decoded = decode(await loadBytes(asset));
	if (!decoded.ok) throw new Error(decoded.problems[0]!.message);
	return decoded.value;
};

const workshop = loadSolids().then((solids) =>
	makeWorkshop(solids, {
		loadAsset: (asset) => read(asset, decodeMesh),
		loadPicture: (asset) => read(asset, readPicture),
		loadPlaces: (asset) => read(asset, decodePlaces),
		shelf: { load: getDerived, keep: putDerived },
	}),
);

/** Breaks an object of a shot; its pieces are kept for whoever asks for them. Says how many they are. */
export async function breakObject(shot: Shot, object: Id, progress: Progress): Promise<number> {
	const pieces = await buildPieces(await workshop, shot, object, progress);
	if (!pieces) throw new Error("The object is not to be broken");
	if (!pieces.ok) throw new Error(pieces.problems.map(({ message }) => message).join(" "));
	await shelvePieces(await workshop, shot, object);
	return pieces.value.pieces.length;
}

export async function buildShot(shot: Shot, progress: Progress): Promise<BuiltShot> {
	const built = await buildBodies(await workshop, shot, progress);
	if (built.problems.length > 0) throw new Error(built.problems.map(({ message }) => message).join(" "));
	return built;
}

/** Everything that a take of the shot can hold frames of. */
export const bodiesOfTake = async (shot: Shot, progress: Progress): Promise<readonly Body[]> =>
	withCrumbs(await workshop, shot, (await buildShot(shot, progress)).bodies, progress);

/** The scene of the take that was worked on last: its next chunk comes soon. */
let last: { readonly take: string; readonly text: string; readonly scene: SimScene } | undefined;

export async function sceneOf(take: string, shot: Shot, progress: Progress): Promise<SimScene> {
	const text = JSON.stringify(shot);
	if (last?.take === take && last.text === text) return last.scene;
	const built = await buildShot(shot, progress);
	const scene = await makeScene(await workshop, shot, built.bodies, progress);
	if (scene.count === 0) throw new Error("Nothing takes part in the simulation. Make something active in Weigh.");
	last = { take, text, scene };
	return scene;
}
