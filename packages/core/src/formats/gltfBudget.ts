import { MOST_TRIANGLES } from "./geometry";

/** The members of a glTF document that its cost goes by. All may be anything. */
interface Budgeted {
	readonly nodes?: readonly { readonly mesh?: number; readonly children?: readonly number[] }[];
	readonly meshes?: readonly {
		readonly primitives?: readonly { readonly attributes?: Readonly<Record<string, number>>; readonly indices?: number }[];
	}[];
	readonly accessors?: readonly {
		readonly bufferView?: number;
		readonly byteOffset?: number;
		readonly componentType?: number;
		readonly count?: number;
		readonly type?: string;
		readonly sparse?: { readonly count?: number };
	}[];
	readonly bufferViews?: readonly {
		readonly buffer?: number;
		readonly byteOffset?: number;
		readonly byteLength?: number;
		readonly byteStride?: number;
	}[];
}

const MOST_RECORDS = 200_000;
/** Of nodes in each other: placing one asks all above it. */
const MOST_DEPTH = 256;
const MOST_ELEMENTS = 3 * MOST_TRIANGLES;
/** Elements of accessors that no bytes stand behind: they are zeros, and are made out of nothing. */
const MOST_ZEROS = 1_000_000;

const COMPONENTS: Readonly<Record<string, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
const BYTES: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const list = <T>(value: readonly T[] | undefined): readonly T[] => (Array.isArray(value) ? value : []);
const isCount = (value: unknown): value is number => Number.isInteger(value) && (value as number) >= 0;

/** What a glTF document announces that its bytes do not hold, or that would take too much; before anything is read. */
export function gltfProblem(json: Budgeted): string | undefined {
	const nodes = list(json.nodes);
	const accessors = list(json.accessors);
	for (const records of [nodes, accessors, list(json.meshes), list(json.bufferViews)])
		if (records.length > MOST_RECORDS) return `The glTF file has lists of more than ${MOST_RECORDS.toLocaleString("en")} entries.`;
	for (const [n, accessor] of accessors.entries()) {
		const problem = accessorProblem(json, accessor);
		if (problem) return `The glTF file's data ${n} ${problem}`;
	}
	return treeProblem(nodes) ?? loadProblem(json, nodes);
}

function accessorProblem(json: Budgeted, accessor: NonNullable<Budgeted["accessors"]>[number]): string | undefined {
	const { count, byteOffset = 0, bufferView, sparse } = accessor ?? {};
	const size = (COMPONENTS[accessor?.type ?? ""] ?? 0) * (BYTES[accessor?.componentType ?? 0] ?? 0);
	if (!isCount(count) || !isCount(byteOffset) || size === 0) return "say neither how many they are nor what; the file is damaged.";
	if (count > MOST_ELEMENTS)
		return `announce ${count.toLocaleString("en")} values; the most is ${MOST_ELEMENTS.toLocaleString("en")}. Reduce the mesh first.`;
	if (sparse !== undefined && (!isCount(sparse.count) || sparse.count > count))
		return "replace more values than they have; the file is damaged.";
	if (bufferView === undefined)
		return count > MOST_ZEROS ? `announce ${count.toLocaleString("en")} values that are not in the file.` : undefined;
	const view = list(json.bufferViews)[bufferView];
	if (!view || !isCount(view.byteLength)) return "lie in a part of the file that is not there; the file is damaged.";
	const stride = isCount(view.byteStride) && view.byteStride > 0 ? view.byteStride : size;
	if (count > 0 && byteOffset + (count - 1) * stride + size > view.byteLength)
		return `announce ${count.toLocaleString("en")} values, which their part of the file is too short for; it is cut short or damaged.`;
	return undefined;
}

/** Every node has one parent at most, nothing lies in itself, and nothing lies too deep. */
function treeProblem(nodes: NonNullable<Budgeted["nodes"]>): string | undefined {
	const parents = new Map<number, number>();
	for (const [n, node] of nodes.entries())
		for (const child of list(node?.children)) {
			if (!isCount(child) || child >= nodes.length) return "The glTF file has a node whose child is not there; the file is damaged.";
			if (parents.has(child) || child === n) return "The glTF file has a node that lies in two others, or in itself; the file is damaged.";
			parents.set(child, n);
		}
	const depths = new Map<number, number>();
	for (let n = 0; n < nodes.length; n++) {
		const way: number[] = [];
		let at: number | undefined = n;
		while (at !== undefined && !depths.has(at) && way.length <= nodes.length) {
			way.push(at);
			at = parents.get(at);
		}
		if (way.length > nodes.length) return "The glTF file has nodes that lie in each other in a circle; the file is damaged.";
		let depth = at === undefined ? 0 : depths.get(at)!;
		for (const one of way.reverse()) depths.set(one, ++depth);
		if (depth > MOST_DEPTH) return `The glTF file has nodes more than ${MOST_DEPTH} deep in each other.`;
	}
	return undefined;
}

/** A mesh that many nodes show is read as often. */
function loadProblem(json: Budgeted, nodes: NonNullable<Budgeted["nodes"]>): string | undefined {
	const counts = list(json.accessors).map((accessor) => accessor.count ?? 0);
	const loads = list(json.meshes).map((mesh) => {
		let load = 0;
		for (const primitive of list(mesh?.primitives)) {
			const vertices = counts[primitive?.attributes?.POSITION ?? -1] ?? 0;
			load += vertices + (counts[primitive?.indices ?? -1] ?? vertices);
		}
		return load;
	});
	let total = 0;
	for (const node of nodes) total += node?.mesh === undefined ? 0 : (loads[node.mesh] ?? 0);
	return total > 2 * MOST_ELEMENTS
		? `The glTF file shows ${Math.round(total / 2).toLocaleString("en")} corners, those of meshes that are placed several times counted each time. Up to ${MOST_ELEMENTS.toLocaleString("en")} can be opened.`
		: undefined;
}
