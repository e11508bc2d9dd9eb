import { decodePlaces } from "@rubble/core/bodies";
import { type Hash, hashBytes } from "@rubble/core/common";
import { decodeMesh, readPicture } from "@rubble/core/formats";
import type { PiecesShelf } from "@rubble/core/fracture";
import { type AssetRef, assetRef } from "@rubble/core/shot";
import { assetUrl } from "./assetUrl";

export async function loadAsset(asset: AssetRef) {
	const mesh = decodeMesh(await fetchBytes(assetUrl(asset)));
	if (!mesh.ok) throw new Error(mesh.problems[0]!.message);
	return mesh.value;
}

export async function loadPicture(asset: AssetRef) {
	const picture = readPicture(await fetchBytes(assetUrl(asset)));
	if (!picture.ok) throw new Error(picture.problems[0]!.message);
	return picture.value;
}

export async function loadPlaces(asset: AssetRef) {
	const places = decodePlaces(await fetchBytes(assetUrl(asset)));
	if (!places.ok) throw new Error(places.problems[0]!.message);
	return places.value;
}

/** What the server does not want, in its words. */
export class Refused extends Error {
	override readonly name = "Refused";
	constructor(
		readonly status: number,
		message: string,
	) {
		super(message);
	}
}

/** While its database is away the server says so (503): it is asked again for about 15 s. */
async function ask(url: string, how: RequestInit = {}): Promise<Response> {
	for (let wait = 500; ; wait *= 2) {
		const response = await fetch(url, how);
		if (response.ok) return response;
		// What makes something new might make it twice.
		if (response.status !== 503 || how.method === "POST" || wait > 8000) {
			const answer = await response.json().catch(() => undefined);
			throw new Refused(response.status, answer?.message ?? `The server answered ${response.status}.`);
		}
		await new Promise((resolve) => setTimeout(resolve, wait));
	}
}

export const fetchBytes = async (url: string): Promise<Uint8Array> => new Uint8Array(await (await ask(url)).arrayBuffer());

/** Pieces that somebody has broken before are on the server. */
export const piecesShelf: PiecesShelf = {
	load: async (name) => {
		const bytes = await fetchBytes(`/api/pieces/${name}`);
		return bytes.length > 0 ? bytes : undefined;
	},
	keep: async (name, bytes) =>
		void (await send(`/api/pieces/${name}`, "PUT", bytes as Uint8Array<ArrayBuffer>, "application/octet-stream")),
};

type Method = "PUT" | "POST" | "PATCH" | "DELETE";

export async function send(url: string, method: Method, body: BodyInit, type: string): Promise<unknown> {
	const response = await ask(url, { method, body, headers: { "Content-Type": type } });
	return response.json().catch(() => undefined);
}

export const sendJson = (url: string, method: Method, value: unknown): Promise<unknown> =>
	send(url, method, JSON.stringify(value), "application/json");

export const getJson = async (url: string): Promise<unknown> => JSON.parse(new TextDecoder().decode(await fetchBytes(url)));

export const putAsset = (hash: Hash, bytes: Uint8Array) =>
	send(`/api/assets/${hash}`, "PUT", bytes as Uint8Array<ArrayBuffer>, "application/octet-stream");

/** Stores bytes on the server and gives what documents call them by. */
export async function keepAsset(bytes: Uint8Array): Promise<AssetRef> {
	const hash = hashBytes(bytes);
	await putAsset(hash, bytes);
	return assetRef(hash);
}
