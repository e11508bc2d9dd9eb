import type { Hash } from "@rubble/core/common";
import { decodeMesh, readPicture } from "@rubble/core/formats";
import type { AssetRef } from "@rubble/core/shot";

export async function loadAsset(asset: AssetRef) {
	const mesh = decodeMesh(await fetchBytes(`/api/assets/${asset.slice("asset:".length)}`));
	if (!mesh.ok) throw new Error(mesh.problems[0]!.message);
	return mesh.value;
}

export async function loadPicture(asset: AssetRef) {
	const picture = readPicture(await fetchBytes(`/api/assets/${asset.slice("asset:".length)}`));
	if (!picture.ok) throw new Error(picture.problems[0]!.message);
	return picture.value;
}

export async function fetchBytes(url: string): Promise<Uint8Array> {
	const response = await fetch(url);
	if (!response.ok) throw new Error((await response.json().catch(() => ({ message: `The server answered ${response.status}.` }))).message);
	return new Uint8Array(await response.arrayBuffer());
}

export async function send(url: string, method: "PUT" | "POST", body: BodyInit, type: string): Promise<unknown> {
	const response = await fetch(url, { method, body, headers: { "Content-Type": type } });
	const answer = await response.json().catch(() => ({ message: `The server answered ${response.status}.` }));
	if (!response.ok) throw new Error(answer.message);
	return answer;
}

export const putAsset = (hash: Hash, bytes: Uint8Array) =>
	send(`/api/assets/${hash}`, "PUT", bytes as Uint8Array<ArrayBuffer>, "application/octet-stream");
