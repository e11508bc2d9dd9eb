import { listShots } from "~/data/shots.server";

/** Names and ids of all shots, for bringing one into another. */
export async function loader() {
	return Response.json((await listShots()).map(({ id, name }) => ({ id, name })));
}
