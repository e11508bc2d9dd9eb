import type { Pixels } from "@rubble/core/colouring";
import { readPicture, readPixels } from "@rubble/core/formats";
import { findStones, type StonesOptions } from "@rubble/core/fracture";
import type { AssetRef } from "@rubble/core/shot";
import { transfer } from "comlink";
import { assetUrl } from "./assetUrl";
import type { JointsPreview } from "./messages";
import { fetchBytes, keepAsset, loadPicture } from "./network";

export async function keepPicture(bytes: Uint8Array): Promise<AssetRef> {
	const picture = readPicture(bytes);
	if (!picture.ok) throw new Error(picture.problems[0]!.message);
	return keepAsset(bytes);
}

/** The colours that bodies take from a picture. */
export async function pixelsOf(asset: AssetRef): Promise<Pixels> {
	const pixels = readPixels(await fetchBytes(assetUrl(asset)));
	if (!pixels.ok) throw new Error(pixels.problems[0]!.message);
	return transfer(pixels.value, [pixels.value.rgb.buffer]);
}

/** Joints are tinted in this colour. */
const TINT = [181, 69, 44];

export async function findJoints(asset: AssetRef, options: StonesOptions): Promise<JointsPreview> {
	const picture = await loadPicture(asset);
	const { outlines, mask, threshold } = findStones(picture, options);
	const rgba = new Uint8ClampedArray(4 * mask.length);
	mask.forEach((stone, i) => {
		const grey = 255 * picture.values[i]!;
		for (let k = 0; k < 3; k++) rgba[4 * i + k] = stone === 1 ? grey : 0.25 * grey + 0.75 * TINT[k]!;
		rgba[4 * i + 3] = 255;
	});
	return transfer({ width: picture.width, height: picture.height, rgba, stones: outlines.length, threshold }, [rgba.buffer]);
}
