import { WebIO } from "@gltf-transform/core";
import { ALL_EXTENSIONS } from "@gltf-transform/extensions";
import { meshopt } from "@gltf-transform/functions";
import { MeshoptEncoder } from "meshoptimizer";
import { buildDocument } from "./glb";
import type { OneFileFormat } from "./types";

/**
 * The same as GLB with vertices in whole numbers (KHR_mesh_quantization: a mesh's places to 1/16,383 of its extent, turns to
 * 1/32,767) and packed buffers (EXT_meshopt_compression): for the web and game engines, which read both.
 */
export const glbSmall: OneFileFormat = {
	id: "glb-small",
	label: "GLB, packed",
	extension: "glb",
	mime: "model/gltf-binary",
	help: "A third of the size, for the web and game engines that read meshopt compression",
	async write(scene) {
		await MeshoptEncoder.ready;
		const document = buildDocument(scene);
		document.setLogger({ debug: quiet, info: quiet, warn: quiet, error: quiet });
		await document.transform(meshopt({ encoder: MeshoptEncoder, level: "medium" }));
		return new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({ "meshopt.encoder": MeshoptEncoder }).writeBinary(document);
	},
};

const quiet = (): void => undefined;
