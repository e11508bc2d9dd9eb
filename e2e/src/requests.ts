import type { Shot } from "@rubble/core/shot";
import { URL_UNDER_TEST } from "./browser";

/** A new shot of this document by a request alone; gives its id. */
export async function makeShot(shot: Shot): Promise<string> {
	const response = await fetch(`${URL_UNDER_TEST}/?index`, {
		method: "POST",
		headers: { "Content-Type": "application/json" },
		body: JSON.stringify({ intent: "open", document: JSON.stringify(shot) }),
		redirect: "manual",
	});
	return response.headers.get("location")!.split("/")[2]!;
}
