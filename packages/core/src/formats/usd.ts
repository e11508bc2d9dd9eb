import { linearOf } from "../colouring";
import { drawMesh, type Mesh } from "../mesh";
import type { Material } from "../shot";
import { type Dress, dressOf } from "./dress";
import { fileStem, primName } from "./names";
import { pictureExtension } from "./picture";
import { meshAt, presence } from "./posed";
import { bytesOf, float } from "./text";
import type { ExportItem, ExportScene, NamedFile, OneFileFormat } from "./types";
import { writeInstancer } from "./usdInstancer";
import { storeFiles } from "./zip";

/** Universal Scene Description as text: one file, everything under one root that does not move. */
export const usda: OneFileFormat = {
	id: "usda",
	label: "USD (text)",
	extension: "usda",
	mime: "model/vnd.usda",
	colours: "frames",
	help: "One readable file with meshes, materials and motion; pictures stay out, USDZ takes them along",
	options: {},
	write: (scene) => bytesOf(usdText(scene, new Map(), "references")),
};

/** The same with copies as points. */
export const usdaPoints: OneFileFormat = {
	...usda,
	id: "usda-points",
	label: "USD (points)",
	help: "As USD (text), but copies are points of instancers: far smaller for thousands of them",
	write: (scene) => bytesOf(usdText(scene, new Map(), "points")),
};

/** The same, packed with its pictures as the format asks: stored, each file at a multiple of 64 bytes. */
export const usdz: OneFileFormat = {
	id: "usdz",
	label: "USDZ",
	extension: "usdz",
	mime: "model/vnd.usdz+zip",
	colours: "frames",
	help: "One package with meshes, materials, pictures and motion",
	options: {},
	write: (scene) => {
		const pictures = new Map<Uint8Array, string>();
		for (const picture of scene.items.flatMap((item) => [item.picture, item.insidePicture]))
			if (picture && !pictures.has(picture)) pictures.set(picture, `textures/picture_${pictures.size + 1}.${pictureExtension(picture)}`);
		const layer: NamedFile = { name: `${fileStem(scene.name)}.usda`, bytes: bytesOf(usdText(scene, pictures, "references")) };
		return storeFiles([layer, ...[...pictures].map(([bytes, name]) => ({ name, bytes }))], 64);
	},
};

/** Paths of what was written, so that materials are bound by them. */
interface Names {
	readonly root: string;
	readonly materialOf: (material: Material, dress: Dress) => string;
	readonly copyOf: (item: ExportItem) => string | undefined;
}

interface Prim {
	readonly name: string;
	readonly path: string;
	readonly taken: Set<string>;
	readonly children: Map<string, Prim>;
	item?: ExportItem;
	/** Copies that are points of an instancer here. */
	points?: ExportItem[];
}

/** How things with the same mesh are written: each a prim that refers to it, or all as points of an instancer. */
type Copies = "references" | "points";

function usdText(scene: ExportScene, pictures: ReadonlyMap<Uint8Array, string>, how: Copies): string {
	const out: string[] = [
		"#usda 1.0",
		"(",
		`    defaultPrim = "${rootName(scene)}"`,
		'    doc = "Mighty Rubble"',
		`    startTimeCode = ${scene.firstFrame}`,
		`    endTimeCode = ${scene.lastFrame}`,
		`    timeCodesPerSecond = ${float(scene.fps)}`,
		`    framesPerSecond = ${float(scene.fps)}`,
		"    metersPerUnit = 1",
		'    upAxis = "Y"',
		")",
		"",
		`def Xform "${rootName(scene)}" (`,
		'    kind = "group"',
		")",
		"{",
	];
	const taken = new Set(["Materials", "Copies"]);
	const materials = collectMaterials(scene, pictures);
	const copies = collectCopies(scene);
	const names: Names = {
		root: `/${rootName(scene)}`,
		materialOf: (material, dress) => {
			const worn = wornIn(pictures, dress);
			return `</${rootName(scene)}/Materials/${materials.find((one) => one.material === material && one.dress === worn)!.name}>`;
		},
		copyOf: (item) => copies.get(item.mesh),
	};
	out.push('    def Scope "Materials"', "    {");
	for (const one of materials) writeMaterial(out, one, pictures, names.root);
	out.push("    }");
	if (copies.size > 0 && how === "references") {
		// Abstract: nothing of it is drawn but through those that refer to it.
		out.push('    class Scope "Copies"', "    {");
		for (const [mesh, name] of copies) {
			out.push(`        def Xform "${name}"`, "        {");
			writeMesh(out, "            ", scene.items.find((item) => item.mesh === mesh)!, scene, undefined, "elsewhere");
			out.push("        }");
		}
		out.push("    }");
	}
	for (const prim of tree(scene, taken, new Set(how === "points" ? copies.keys() : [])).children.values())
		writePrim(out, "    ", prim, scene, names);
	out.push("}", "");
	return out.join("\n");
}

const rootName = ({ name }: ExportScene): string => primName(name || "Shot", new Set());

/** Groups and items by the parts of their paths. What moves must not carry others along: poses are those of the world. */
function tree(scene: ExportScene, taken: Set<string>, pointed: ReadonlySet<Mesh>): Prim {
	const root: Prim = { name: "", path: `/${rootName(scene)}`, taken, children: new Map() };
	const child = (parent: Prim, part: string): Prim => {
		let found = parent.children.get(part);
		if (!found) {
			const name = primName(part, parent.taken);
			found = { name, path: `${parent.path}/${name}`, taken: new Set(["mesh", "self"]), children: new Map() };
			parent.children.set(part, found);
		}
		return found;
	};
	for (const item of scene.items) {
		if (!pointed.has(item.mesh)) item.path.split("/").reduce(child, root).item = item;
		// One instancer holds what looks alike.
		else instancerFor(item.group.split("/").reduce(child, root), item, child).push(item);
	}
	return root;
}

/** The points that an item belongs to, beneath a prim: with those of its material and picture. */
function instancerFor(prim: Prim, item: ExportItem, child: (parent: Prim, part: string) => Prim): ExportItem[] {
	for (let n = 1; ; n++) {
		const points = child(prim, n === 1 ? "copies" : `copies_${n}`);
		points.points ??= [];
		const [first] = points.points;
		if (!first || (first.mesh === item.mesh && first.outside === item.outside && dressOf(first, false) === dressOf(item, false)))
			return points.points;
	}
}

function writePrim(out: string[], indent: string, prim: Prim, scene: ExportScene, names: Names): void {
	const { item, children, points } = prim;
	if (points) {
		writeInstancer(out, indent, prim, points, scene, (into, at) => {
			writeMesh(into, at, points[0]!, scene, names, "elsewhere");
		});
		return;
	}
	const copy = item && children.size === 0 ? names.copyOf(item) : undefined;
	if (copy) {
		out.push(`${indent}def Xform "${prim.name}" (`);
		out.push(
			`${indent}    instanceable = true`,
			`${indent}    references = <${names.root}/Copies/${copy}>`,
			`${indent}    prepend apiSchemas = ["MaterialBindingAPI"]`,
		);
		out.push(`${indent})`, `${indent}{`);
		out.push(`${indent}    rel material:binding = ${names.materialOf(item!.outside, dressOf(item!, false))}`);
		writeColour(out, `${indent}    `, item!, scene);
		writePose(out, `${indent}    `, item!, scene);
		out.push(`${indent}}`);
		return;
	}
	out.push(`${indent}def Xform "${prim.name}"`, `${indent}{`);
	const inner = `${indent}    `;
	if (item && children.size === 0) {
		writePose(out, inner, item, scene);
		writeMesh(out, inner, item, scene, names);
	} else if (item) {
		out.push(`${inner}def Xform "self"`, `${inner}{`);
		writePose(out, `${inner}    `, item, scene);
		writeMesh(out, `${inner}    `, item, scene, names);
		out.push(`${inner}}`);
	}
	for (const child of children.values()) writePrim(out, inner, child, scene, names);
	out.push(`${indent}}`);
}

/** What viewers show without a renderer's materials; the material that is bound reads it, too (`writeMaterial`). */
function writeColour(out: string[], indent: string, item: ExportItem, scene: ExportScene): void {
	if (!item.colourAt) return;
	const text = (frame: number) => `[(${item.colourAt!(frame).map(float).join(", ")})]`;
	if (!scene.coloursMove) out.push(`${indent}color3f[] primvars:displayColor = ${text(scene.firstFrame)}`);
	else {
		out.push(`${indent}color3f[] primvars:displayColor.timeSamples = {`);
		for (let frame = scene.firstFrame; frame <= scene.lastFrame; frame++) out.push(`${indent}    ${frame}: ${text(frame)},`);
		out.push(`${indent}}`);
	}
}

function writePose(out: string[], indent: string, item: ExportItem, scene: ExportScene): void {
	const track = scene.tracks[item.track];
	const triple = (a: ArrayLike<number>, k: number) => `(${float(a[3 * k]!)}, ${float(a[3 * k + 1]!)}, ${float(a[3 * k + 2]!)})`;
	// USD writes the real part first.
	const turn = (a: ArrayLike<number>, k: number) =>
		`(${float(a[4 * k + 3]!)}, ${float(a[4 * k]!)}, ${float(a[4 * k + 1]!)}, ${float(a[4 * k + 2]!)})`;
	const samples = (value: (k: number) => string) => {
		out.push(...Array.from(track!.frames, (frame, k) => `${indent}    ${frame}: ${value(k)},`), `${indent}}`);
	};
	if (track && track.frames.length > 1) {
		out.push(`${indent}double3 xformOp:translate.timeSamples = {`);
		samples((k) => triple(track.translations, k));
		out.push(`${indent}quatf xformOp:orient.timeSamples = {`);
		samples((k) => turn(track.rotations, k));
	} else {
		out.push(`${indent}double3 xformOp:translate = ${triple(item.translation, 0)}`);
		out.push(`${indent}quatf xformOp:orient = ${turn(item.rotation, 0)}`);
	}
	const seen = presence(item, scene);
	if (seen.length > 0)
		out.push(
			`${indent}token visibility.timeSamples = {`,
			...seen.map(({ frame, there }) => `${indent}    ${frame}: "${there ? "inherited" : "invisible"}",`),
			`${indent}}`,
		);
	const sized = item.scale !== 1;
	if (sized) out.push(`${indent}float3 xformOp:scale = (${float(item.scale)}, ${float(item.scale)}, ${float(item.scale)})`);
	out.push(`${indent}uniform token[] xformOpOrder = ["xformOp:translate", "xformOp:orient"${sized ? ', "xformOp:scale"' : ""}]`);
}

/**
 * Points are unique by place, so that the mesh stays closed; normals and texture places belong to corners. `colours`: whether they
 * are written here, or by what the mesh is a part of.
 */
function writeMesh(
	out: string[],
	indent: string,
	item: ExportItem,
	scene: ExportScene,
	names: Names | undefined,
	colours: "here" | "elsewhere" = "here",
): void {
	const drawn = drawMesh(item.mesh);
	const corners = drawn.indices;
	const insideFaces = (corners.length - drawn.outsideIndices) / 3;
	const inner = `${indent}    `;
	const bind = (inside: boolean, at: string) => {
		if (names) out.push(`${at}rel material:binding = ${names.materialOf(inside ? item.inside : item.outside, dressOf(item, inside))}`);
	};
	out.push(`${indent}def Mesh "mesh"${names ? ` (\n${inner}prepend apiSchemas = ["MaterialBindingAPI"]\n${indent})` : ""}`, `${indent}{`);
	out.push(`${inner}uniform token subdivisionScheme = "none"`);
	out.push(`${inner}uniform token orientation = "rightHanded"`);
	out.push(`${inner}int[] faceVertexCounts = [${Array.from({ length: corners.length / 3 }, () => 3).join(", ")}]`);
	out.push(`${inner}int[] faceVertexIndices = [${Array.from(corners, (v) => drawn.source[v]!).join(", ")}]`);
	const shapes = item.changing?.frames ?? [];
	if (shapes.length > 1) {
		out.push(`${inner}point3f[] points.timeSamples = {`);
		for (const frame of shapes) out.push(`${inner}    ${frame}: ${points(meshAt(item, frame))},`);
		out.push(`${inner}}`);
	} else {
		out.push(`${inner}point3f[] points = ${points(item.mesh)}`);
		const normals = Array.from(corners, (v) => [0, 1, 2].map((k) => float(drawn.normals[3 * v + k]!)).join(", "));
		out.push(`${inner}normal3f[] normals = [(${normals.join("), (")})] (`, `${inner}    interpolation = "faceVarying"`, `${inner})`);
	}
	if (colours === "here") writeColour(out, inner, item, scene);
	out.push(`${inner}float3[] extent = ${extent(scene, item)}`);
	if (drawn.uv.length > 0) {
		const uv = Array.from(corners, (v) => `${float(drawn.uv[2 * v]!)}, ${float(1 - drawn.uv[2 * v + 1]!)}`);
		out.push(`${inner}texCoord2f[] primvars:st = [(${uv.join("), (")})] (`, `${inner}    interpolation = "faceVarying"`, `${inner})`);
	}
	bind(false, inner);
	if (insideFaces > 0) {
		const from = drawn.outsideIndices / 3;
		out.push(`${inner}uniform token subsetFamily:materialBind:familyType = "nonOverlapping"`);
		out.push(`${inner}def GeomSubset "inside" (`, `${inner}    prepend apiSchemas = ["MaterialBindingAPI"]`, `${inner})`, `${inner}{`);
		out.push(`${inner}    uniform token elementType = "face"`, `${inner}    uniform token familyName = "materialBind"`);
		out.push(`${inner}    int[] indices = [${Array.from({ length: insideFaces }, (_, n) => from + n).join(", ")}]`);
		bind(true, `${inner}    `);
		out.push(`${inner}}`);
	}
	out.push(`${indent}}`);
}

function points({ positions }: Mesh): string {
	const parts: string[] = [];
	for (let v = 0; v < positions.length; v += 3)
		parts.push(`(${float(positions[v]!)}, ${float(positions[v + 1]!)}, ${float(positions[v + 2]!)})`);
	return `[${parts.join(", ")}]`;
}

/** The box that holds the mesh in all its shapes. */
function extent(scene: ExportScene, item: ExportItem): string {
	const low = [Infinity, Infinity, Infinity];
	const high = [-Infinity, -Infinity, -Infinity];
	for (const frame of item.changing?.frames ?? [scene.firstFrame])
		meshAt(item, frame).positions.forEach((value, i) => {
			low[i % 3] = Math.min(low[i % 3]!, value);
			high[i % 3] = Math.max(high[i % 3]!, value);
		});
	return `[(${low.map(float).join(", ")}), (${high.map(float).join(", ")})]`;
}

/** Meshes that several items wear, without inside faces and unchanging: written once. */
function collectCopies({ items }: ExportScene): Map<Mesh, string> {
	const counts = new Map<Mesh, number>();
	for (const { mesh, changing } of items) if (!changing && !mesh.inside.includes(1)) counts.set(mesh, (counts.get(mesh) ?? 0) + 1);
	const taken = new Set<string>();
	const copies = new Map<Mesh, string>();
	for (const { mesh, group } of items)
		if ((counts.get(mesh) ?? 0) > 1 && !copies.has(mesh)) copies.set(mesh, primName(group.split("/").at(-1)!, taken));
	return copies;
}

interface WrittenMaterial {
	readonly name: string;
	readonly material: Material;
	readonly dress: Dress;
}

/** Pictures that do not go along are not worn. */
const wornIn = (pictures: ReadonlyMap<Uint8Array, string>, dress: Dress): Dress =>
	dress === "gradient" || (dress && pictures.has(dress)) ? dress : undefined;

function collectMaterials({ items }: ExportScene, pictures: ReadonlyMap<Uint8Array, string>): WrittenMaterial[] {
	const taken = new Set<string>();
	const found: WrittenMaterial[] = [];
	for (const item of items)
		for (const inside of [false, true]) {
			const material = inside ? item.inside : item.outside;
			const dress = wornIn(pictures, dressOf(item, inside));
			if (found.some((one) => one.material === material && one.dress === dress)) continue;
			found.push({ name: primName(dress === "gradient" ? `${material.name}_coloured` : material.name, taken), material, dress });
		}
	return found;
}

/** UsdPreviewSurface, which every program knows. Colours are linear there. */
function writeMaterial(
	out: string[],
	{ name, material, dress }: WrittenMaterial,
	pictures: ReadonlyMap<Uint8Array, string>,
	root: string,
): void {
	const path = `${root}/Materials/${name}`;
	const rgb = linearOf(material.colour).map(float);
	out.push(
		`        def Material "${name}"`,
		"        {",
		`            token outputs:surface.connect = <${path}/Surface.outputs:surface>`,
		'            def Shader "Surface"',
		"            {",
		'                uniform token info:id = "UsdPreviewSurface"',
		dress
			? `                color3f inputs:diffuseColor.connect = <${path}/${dress === "gradient" ? "Colour.outputs:result" : "Picture.outputs:rgb"}>`
			: `                color3f inputs:diffuseColor = (${rgb.join(", ")})`,
		`                float inputs:roughness = ${float(material.roughness)}`,
		`                float inputs:metallic = ${float(material.metalness)}`,
		`                float inputs:opacity = ${float(material.opacity)}`,
		"                token outputs:surface",
		"            }",
	);
	if (dress === "gradient")
		out.push(
			'            def Shader "Colour"',
			"            {",
			'                uniform token info:id = "UsdPrimvarReader_float3"',
			'                string inputs:varname = "displayColor"',
			`                float3 inputs:fallback = (${rgb.join(", ")})`,
			"                float3 outputs:result",
			"            }",
		);
	else if (dress)
		out.push(
			'            def Shader "Picture"',
			"            {",
			'                uniform token info:id = "UsdUVTexture"',
			`                asset inputs:file = @${pictures.get(dress)}@`,
			'                token inputs:sourceColorSpace = "sRGB"',
			'                token inputs:wrapS = "repeat"',
			'                token inputs:wrapT = "repeat"',
			`                float2 inputs:st.connect = <${path}/Place.outputs:result>`,
			"                float3 outputs:rgb",
			"            }",
			'            def Shader "Place"',
			"            {",
			'                uniform token info:id = "UsdPrimvarReader_float2"',
			'                string inputs:varname = "st"',
			"                float2 outputs:result",
			"            }",
		);
	out.push("        }");
}
