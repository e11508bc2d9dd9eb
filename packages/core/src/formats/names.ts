/** `Breakwater strike` → `breakwater-strike`: safe in every file system, without blanks. */
export const fileStem = (name: string): string =>
	name
		.normalize("NFKD")
		.replace(/[^\p{L}\p{N}]+/gu, "-")
		.replace(/^-+|-+$/g, "")
		.toLowerCase() || "shot";

/** `slipway_0012`: the number after an underscore, wide enough for all frames of the range, so that files sort by it. */
export function frameStem(
	scene: { readonly name: string; readonly firstFrame: number; readonly lastFrame: number },
	frame: number,
): string {
	const widest = Math.max(Math.abs(scene.firstFrame), Math.abs(scene.lastFrame));
	const digits = Math.max(4, String(widest).length);
	return `${fileStem(scene.name)}_${frame < 0 ? "-" : ""}${String(Math.abs(frame)).padStart(digits, "0")}`;
}

/**
 * A name as USD identifiers are: letters, digits and underscores, beginning with a letter. `00017` becomes `p_00017`;
 * what is not ASCII becomes an underscore. `taken` makes it unique among its siblings, and is added to.
 */
export function primName(name: string, taken: Set<string>): string {
	const plain = name
		.normalize("NFKD")
		.replace(/\p{M}/gu, "")
		.replace(/[^A-Za-z0-9_]/g, "_");
	const legal = /^[A-Za-z]/.test(plain) ? plain : `p_${plain}`;
	let unique = legal;
	for (let n = 2; taken.has(unique); n++) unique = `${legal}_${n}`;
	taken.add(unique);
	return unique;
}
