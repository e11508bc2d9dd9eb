import { Cancelled } from "@rubble/core/common";
import { objectPath } from "@rubble/core/shot";
import { type Claim, endJob } from "../../app/data/jobs.server";
import type { Tending } from "./workOn";
import { breakObject } from "./workshop";

/** A fracture that would take long in a page: its pieces are kept on the server, where the page finds them. */
export async function breakApart(claim: Claim, tending: Tending): Promise<void> {
	const order = claim.job.fracture;
	if (!order) throw new Cancelled();
	const count = await breakObject(order.shot, order.object, tending);
	await endJob(claim, "done", `${objectPath(order.shot, order.object)}: ${count.toLocaleString("en")} pieces`);
}
