import { type Mesh, makeMesh } from "./types";

/** Several meshes as one, their shells side by side. An attribute stays where all of them have it. */
export function joinMeshes(parts: readonly Mesh[]): Mesh {
	const positions = new Float32Array(parts.reduce((sum, part) => sum + part.positions.length, 0));
	const triangles = new Uint32Array(parts.reduce((sum, part) => sum + part.triangles.length, 0));
	let v = 0;
	let t = 0;
	for (const part of parts) {
		positions.set(part.positions, v);
		triangles.set(
			part.triangles.map((index) => index + v / 3),
			t,
		);
		v += part.positions.length;
		t += part.triangles.length;
	}
	const joined = <A extends Float32Array | Uint8Array | Int32Array>(attribute: (part: Mesh) => A, make: (length: number) => A): A => {
		if (parts.some((part) => attribute(part).length === 0)) return make(0);
		const all = make(parts.reduce((sum, part) => sum + attribute(part).length, 0));
		let at = 0;
		for (const part of parts) {
			all.set(attribute(part), at);
			at += attribute(part).length;
		}
		return all;
	};
	return makeMesh(positions, triangles, {
		uv: joined(
			(part) => part.uv,
			(n) => new Float32Array(n),
		),
		inside: joined(
			(part) => part.inside,
			(n) => new Uint8Array(n),
		),
		neighbour: joined(
			(part) => part.neighbour,
			(n) => new Int32Array(n),
		),
	});
}
