import { unpackShot } from "@rubble/core/formats";
import { MOST_BLOB_BYTES, readBody, refuse } from "~/data/requests.server";
import { openShotFile } from "~/data/shotFiles.server";
import { listShots } from "~/data/shots.server";
import type { Route } from "./+types/api.shots";

/** Names and ids of all shots, for bringing one into another. */
export async function loader() {
	return Response.json((await listShots()).map(({ id, name }) => ({ id, name })));
}

/** Opens a shot file as a new shot. */
export async function action({ request }: Route.ActionArgs) {
	const file = unpackShot(await readBody(request, MOST_BLOB_BYTES));
	if (!file.ok) throw refuse(422, file.problems[0]!.message);
	return Response.json({ id: await openShotFile(file.value) });
}
