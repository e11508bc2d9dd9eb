import type { Shot } from "@rubble/core/shot";
import type { Take } from "@rubble/core/simulation";
import { array, mixed, number, object, string } from "yup";
import { readJson, refuse } from "~/data/requests.server";
import { beginTake, loadTake } from "~/data/takes.server";
import type { Route } from "./+types/api.take";

const hash = () => string().matches(/^[0-9a-f]{64}$/);
const schema = object({
	format: string().oneOf(["mighty-rubble-take"]).required(),
	version: number().oneOf([1]).required(),
	name: string().max(200).required(),
	snapshot: mixed<Shot>().required(),
	build: string().max(200).required(),
	bodies: array(object({ id: string().required(), path: string().required() }))
		.max(200_000)
		.required(),
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

export async function loader({ params }: Route.LoaderArgs) {
	return Response.json((await loadTake(params.shot)) ?? null);
}

/** Begins a run, or goes on with one: the snapshot and the chunks that still hold. */
export async function action({ request, params }: Route.ActionArgs) {
	const take = (await readJson(request, schema)) as Take;
	try {
		return Response.json({ id: await beginTake(params.shot, take) });
	} catch (error) {
		if ((error as { cause?: { code?: string } }).cause?.code === "23503") throw refuse(404, "The shot was deleted.");
		throw error;
	}
}
