import type { Shot } from "@rubble/core/shot";
import { array, mixed, number, object, string } from "yup";

const hash = () => string().matches(/^[0-9a-f]{64}$/);

/** A take as pages send it. */
export const takeSchema = object({
	format: string().oneOf(["mighty-rubble-take"]).required(),
	version: number().oneOf([1]).required(),
	name: string().max(200).required(),
	snapshot: mixed<Shot>().required(),
	build: string().max(200).required(),
	bodies: array(object({ id: string().required(), path: string().required() }))
		.max(200_000)
		.required(),
	joints: array(string().required()).max(1_000_000).optional().default(undefined),
	wentOn: object({ take: string().max(200).required(), frame: number().integer().required() })
		.optional()
		.default(undefined),
	frameHashes: array(hash().required()).max(100_000).required(),
	chunks: array(
		object({
			firstFrame: number().integer().required(),
			frames: number().integer().min(1).required(),
			hash: hash().required(),
			checkpoint: hash().nullable().defined(),
		}),
	).required(),
});
