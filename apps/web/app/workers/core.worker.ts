import {
	type Body,
	type BuiltShot,
	bodyCollider,
	buildBodies,
	buildMesh,
	buildPieces,
	makeWorkshop,
	meshHash,
	piecesHash,
	reportMesh,
	type Workshop,
} from "@rubble/core/bodies";
import { addChunk, decodeChunk, dropFrom, encodeChunk, type FrameEvents, type FrameStore, lastStored } from "@rubble/core/cache";
import { type Hash, hashBytes, type Progress } from "@rubble/core/common";
import {
	decodeMesh,
	encodeMesh,
	exportTake,
	formatOfFile,
	placeModel,
	type ReadModel,
	readModel,
	TAKE_FORMATS,
} from "@rubble/core/formats";
import { bounds, boundsSize, drawMesh } from "@rubble/core/mesh";
import { type AssetRef, edit, type Id, orderedObjects, type Shot } from "@rubble/core/shot";
import {
	chunkToGoOnFrom,
	decodeCheckpoint,
	encodeCheckpoint,
	findStartOverlaps,
	frameHashes,
	makeScene,
	makeTake,
	rapierEngine,
	runChecks,
	type SimScene,
	simulate,
	type Take,
	withChunk,
} from "@rubble/core/simulation";
import { loadSolids, type MeshReport } from "@rubble/core/solid";
import { expose, transfer } from "comlink";
import manifoldWasm from "manifold-3d/manifold.wasm?url";
import { colliderLines } from "./colliderLines";
import type { BodyRow, BuildResult, CoreWorker, Drawing, PiecesFacts } from "./messages";

/** The thread in which everything slow happens. It keeps what it has made, and the frames of the take on show. */
interface Memory {
	workshop: Promise<Workshop>;
	built?: { shot: Shot; result: BuiltShot };
	scene?: { shot: Shot; scene: SimScene };
	file?: { name: string; model: ReadModel };
	take?: { id: string; take: Take };
	store: FrameStore;
	cancel: Record<"build" | "run", { aborted: boolean }>;
}

const memory: Memory = {
	workshop: loadSolids(manifoldWasm).then((solids) => makeWorkshop(solids, loadAsset)),
	store: { bodies: 0, chunks: [] },
	cancel: { build: { aborted: false }, run: { aborted: false } },
};

async function loadAsset(asset: AssetRef) {
	const mesh = decodeMesh(await fetchBytes(`/api/assets/${asset.slice("asset:".length)}`));
	if (!mesh.ok) throw new Error(mesh.problems[0]!.message);
	return mesh.value;
}

async function fetchBytes(url: string): Promise<Uint8Array> {
	const response = await fetch(url);
	if (!response.ok) throw new Error((await response.json().catch(() => ({ message: `The server answered ${response.status}.` }))).message);
	return new Uint8Array(await response.arrayBuffer());
}

async function send(url: string, method: "PUT" | "POST", body: BodyInit, type: string): Promise<unknown> {
	const response = await fetch(url, { method, body, headers: { "Content-Type": type } });
	const answer = await response.json().catch(() => ({ message: `The server answered ${response.status}.` }));
	if (!response.ok) throw new Error(answer.message);
	return answer;
}

const putAsset = (hash: Hash, bytes: Uint8Array) =>
	send(`/api/assets/${hash}`, "PUT", bytes as Uint8Array<ArrayBuffer>, "application/octet-stream");

/** Lets messages in (a cancel, above all) every few milliseconds of long work. */
function letMessagesIn(signal: { aborted: boolean }, tell: (fraction: number, what: string) => void): Progress {
	let last = performance.now();
	return {
		signal,
		onProgress: (fraction, what) => {
			const now = performance.now();
			if (now - last < 30) return;
			last = now;
			tell(fraction, what);
			return new Promise((resolve) => {
				const { port1, port2 } = new MessageChannel();
				port1.onmessage = () => {
					port1.close();
					resolve();
				};
				port2.postMessage(0);
			});
		},
	};
}

function begin(what: "build" | "run"): { aborted: boolean } {
	memory.cancel[what].aborted = true;
	memory.cancel[what] = { aborted: false };
	return memory.cancel[what];
}

async function build(
	shot: Shot,
	known: Readonly<Record<Id, Hash>>,
	onProgress: (fraction: number, what: string) => void,
): Promise<BuildResult> {
	const workshop = await memory.workshop;
	const result = await buildBodies(workshop, shot, letMessagesIn(begin("build"), onProgress));
	memory.built = { shot, result };
	const hashes: Record<Id, Hash> = {};
	const reports: Record<Id, MeshReport> = {};
	const pieces: Record<Id, PiecesFacts> = {};
	const drawings: Drawing[] = [];
	for (const object of orderedObjects(shot)) {
		hashes[object] = piecesHash(shot, object) ?? meshHash(shot, object);
		const own = result.bodies.filter((body) => body.object === object);
		const mesh = await buildMesh(workshop, shot, object);
		if (mesh.ok && mesh.value.triangles.length > 0) reports[object] = reportMesh(workshop, shot, object, mesh.value);
		const broken = await buildPieces(workshop, shot, object);
		if (broken?.ok)
			pieces[object] = {
				count: broken.value.pieces.length,
				lacking: broken.value.lacking,
				sourceVolume: broken.value.sourceVolume,
				contacts: broken.value.contacts.length,
			};
		if (known[object] !== hashes[object] && own.length > 0) drawings.push(draw(object, hashes[object], own));
	}
	const buffers = drawings.flatMap((d) => [d.positions.buffer, d.normals.buffer, d.inside.buffer, d.indices.buffer] as ArrayBuffer[]);
	return transfer(
		{ bodies: result.bodies.map(rowOf), drawings, hashes, problems: result.problems, reports, pieces, frameHashes: frameHashes(shot) },
		buffers,
	);
}

function rowOf({ mesh, ...body }: Body): BodyRow {
	return { ...body, triangles: mesh.triangles.length / 3, size: Math.max(...boundsSize(bounds(mesh))) };
}

function draw(object: Id, hash: Hash, bodies: readonly Body[]): Drawing {
	const parts = bodies.map((body) => drawMesh(body.mesh));
	const vertexStart = new Uint32Array(parts.length + 1);
	const indexStart = new Uint32Array(parts.length + 1);
	parts.forEach((part, i) => {
		vertexStart[i + 1] = vertexStart[i]! + part.positions.length / 3;
		indexStart[i + 1] = indexStart[i]! + part.indices.length;
	});
	const drawing: Drawing = {
		object,
		hash,
		ids: bodies.map((body) => body.id),
		positions: new Float32Array(3 * vertexStart[parts.length]!),
		normals: new Float32Array(3 * vertexStart[parts.length]!),
		inside: new Uint8Array(vertexStart[parts.length]!),
		indices: new Uint32Array(indexStart[parts.length]!),
		vertexStart,
		indexStart,
	};
	parts.forEach((part, i) => {
		drawing.positions.set(part.positions, 3 * vertexStart[i]!);
		drawing.normals.set(part.normals, 3 * vertexStart[i]!);
		drawing.inside.set(part.inside, vertexStart[i]!);
		drawing.indices.set(part.indices, indexStart[i]!);
	});
	return drawing;
}

/** The bodies of this very shot; made anew where the last build was of another. */
async function builtFor(shot: Shot, progress: Progress = {}): Promise<BuiltShot> {
	if (memory.built?.shot === shot || (memory.built && JSON.stringify(memory.built.shot) === JSON.stringify(shot)))
		return memory.built.result;
	const result = await buildBodies(await memory.workshop, shot, progress);
	memory.built = { shot, result };
	return result;
}

async function sceneFor(shot: Shot, progress: Progress = {}): Promise<SimScene> {
	const built = await builtFor(shot, progress);
	if (memory.scene && memory.scene.shot === memory.built!.shot) return memory.scene.scene;
	const scene = await makeScene(await memory.workshop, shot, built.bodies, progress);
	memory.scene = { shot: memory.built!.shot, scene };
	return scene;
}

const worker: CoreWorker = {
	build,

	async inspect(shot) {
		const workshop = await memory.workshop;
		const signal = memory.cancel.build;
		const progress = letMessagesIn(signal, () => undefined);
		const built = await builtFor(shot, progress);
		const scene = built.bodies.length > 0 ? await sceneFor(shot, progress) : undefined;
		const reports = new Map<Id, MeshReport>();
		for (const object of orderedObjects(shot)) {
			const mesh = await buildMesh(workshop, shot, object);
			if (mesh.ok && mesh.value.triangles.length > 0) reports.set(object, reportMesh(workshop, shot, object, mesh.value));
		}
		const overlaps = scene && scene.count > 0 ? await findStartOverlaps(scene, rapierEngine) : [];
		const findings = runChecks({ shot, built, reports, scene, overlaps, events: allEvents() }).map(({ fixes, ...finding }) => ({
			...finding,
			fixes: fixes.map(({ label, command }) => ({ label, edit: edit(shot, command).edit })),
		}));
		const colliders: Record<string, { choice: string; error: number; parts: number }> = {};
		scene?.ids.forEach((id, i) => {
			const { choice, error, shape } = scene.colliders[i]!;
			colliders[id] = { choice, error, parts: shape.kind === "hulls" ? shape.hulls.length : 1 };
		});
		return { findings, colliders };
	},

	async colliderLines(shot) {
		const workshop = await memory.workshop;
		const built = await builtFor(shot);
		const bodies = built.bodies.filter((body) => body.settings.kind !== "none" && !body.endless);
		const result = colliderLines(
			workshop.solids,
			bodies.map((body) => ({ id: body.id, collider: bodyCollider(workshop, shot, body) })),
		);
		return transfer(result, [result.lines.buffer, result.body.buffer] as ArrayBuffer[]);
	},

	async readFile(name, bytes) {
		const model = await readModel(name, bytes);
		if (!model.ok) throw new Error(model.problems[0]!.message);
		memory.file = { name, model: model.value };
		return {
			name,
			metres: formatOfFile(name)!.metres,
			parts: model.value.parts.map(({ name: part, mesh }) => ({
				name: part,
				triangles: mesh.triangles.length / 3,
				size: boundsSize(bounds(mesh)),
			})),
			notes: model.value.notes,
		};
	},

	async placeFile(choices) {
		if (!memory.file) throw new Error("The file is no longer open; choose it again.");
		const placed = [];
		for (const { name, mesh } of memory.file.model.parts) {
			const bytes = encodeMesh(placeModel(mesh, choices));
			const hash = hashBytes(bytes);
			await putAsset(hash, bytes);
			placed.push({ name: name || memory.file.name.replace(/\.[^.]*$/, ""), asset: `asset:${hash}` as const });
		}
		return placed;
	},

	async loadTake(shotId) {
		const stored = JSON.parse(new TextDecoder().decode(await fetchBytes(`/api/shots/${shotId}/take`))) as { id: string; take: Take } | null;
		if (!stored) return null;
		memory.take = stored;
		memory.store = { bodies: stored.take.bodies.length, chunks: [] };
		for (const { firstFrame, hash } of stored.take.chunks)
			memory.store = addChunk(memory.store, decodeChunk(await fetchBytes(`/api/takes/${stored.id}/chunks/${firstFrame}?hash=${hash}`)));
		return { ...stored, chunks: memory.store.chunks };
	},

	async run(shotId, shot, onProgress, onStart, onChunk) {
		const started = performance.now();
		const signal = begin("run");
		const progress = letMessagesIn(signal, onProgress);
		const built = await builtFor(shot, progress);
		if (built.problems.length > 0) throw new Error(built.problems[0]!.message);
		const scene = await sceneFor(shot, progress);
		if (scene.count === 0) throw new Error("Nothing takes part in the simulation yet. Make something active in Weigh.");
		const hashes = frameHashes(shot);
		const { firstFrame, lastFrame } = shot.settings;
		// What still holds of the last run is kept; the run goes on at the last checkpoint before the first stale frame.
		const last = memory.take && chunkToGoOnFrom(memory.take.take, hashes);
		const kept = last ? memory.take!.take.chunks.filter((chunk) => chunk.firstFrame <= last.firstFrame) : [];
		const from = last ? decodeCheckpoint(await fetchBytes(`/api/assets/${last.checkpoint}`)) : undefined;
		const begun = from ? from.frame + 1 : firstFrame;
		let take: Take = { ...makeTake("Take 1", shot, scene), chunks: kept, frameHashes: hashes.slice(0, begun - firstFrame) };
		const { id } = (await send(`/api/shots/${shotId}/take`, "POST", JSON.stringify(take), "application/json")) as { id: string };
		memory.take = { id, take };
		memory.store = { bodies: scene.count, chunks: dropFrom(memory.store, begun).chunks };
		onStart(id, take, begun);
		if (begun > lastFrame) return { finished: true, frame: lastFrame, frames: 0, milliseconds: performance.now() - started };
		let saving: Promise<unknown> = Promise.resolve();
		const result = await simulate(scene, rapierEngine, {
			...progress,
			...(from && { from }),
			onChunk: (chunk, checkpoint) => {
				const bytes = encodeChunk(chunk);
				const hash = hashBytes(bytes);
				const state = checkpoint && encodeCheckpoint(checkpoint);
				const stateHash = state ? hashBytes(state) : null;
				take = withChunk(take, chunk, hash, stateHash, hashes);
				memory.take = { id, take };
				memory.store = addChunk(memory.store, chunk);
				onChunk(chunk, take);
				// Saved in order, beside the simulation; a failure comes up at the end.
				saving = saving.then(async () => {
					if (state) await putAsset(stateHash!, state);
					await send(
						`/api/takes/${id}/chunks/${chunk.firstFrame}?frames=${chunk.frames}&hash=${hash}${stateHash ? `&checkpoint=${stateHash}` : ""}`,
						"PUT",
						bytes as Uint8Array<ArrayBuffer>,
						"application/octet-stream",
					);
				});
				saving.catch(() => undefined);
			},
		});
		try {
			await saving;
		} catch (error) {
			throw new Error(
				`The run is done, but its frames could not be saved: ${(error as Error).message}. They stay until you leave the page.`,
			);
		}
		return { finished: result.finished, frame: result.frame, frames: result.frame - begun + 1, milliseconds: performance.now() - started };
	},

	async bake(format, options) {
		if (!memory.take || memory.store.chunks.length === 0) throw new Error("There are no frames to bake. Run the shot first.");
		const shot = memory.take.take.snapshot;
		const current = memory.built;
		const built = await builtFor(shot);
		memory.built = current;
		const { firstFrame } = shot.settings;
		const lastFrame = lastStored(memory.store, firstFrame);
		const scene = exportTake(shot, built.bodies, memory.take.take.bodies, memory.store, { firstFrame, lastFrame }, options);
		const writer = TAKE_FORMATS.find(({ id }) => id === format);
		if (!writer) throw new Error(`There is no format “${format}”.`);
		const bytes = (await writer.write(scene)).slice();
		return transfer({ bytes, error: scene.baked.error, firstFrame, lastFrame }, [bytes.buffer]);
	},

	cancel(what) {
		memory.cancel[what].aborted = true;
	},
};

/** Events of all stored frames, one after the other. */
function allEvents(): FrameEvents | undefined {
	const { chunks } = memory.store;
	if (chunks.length === 0) return undefined;
	const join = <A extends Int32Array | Uint8Array | Float32Array>(pick: (events: FrameEvents) => A): A => {
		const parts = chunks.map((chunk) => pick(chunk.events));
		const out = new (parts[0]!.constructor as new (n: number) => A)(parts.reduce((sum, part) => sum + part.length, 0));
		let at = 0;
		for (const part of parts) {
			out.set(part, at);
			at += part.length;
		}
		return out;
	};
	return { frame: join((e) => e.frame), kind: join((e) => e.kind), a: join((e) => e.a), b: join((e) => e.b), value: join((e) => e.value) };
}

expose(worker);
