import { addChunk, dropFrom } from "@rubble/core/cache";
import { methodById } from "@rubble/core/fracture";
import { type Fracture, fractureOf, type Id, type Shot } from "@rubble/core/shot";
import { proxy } from "comlink";
import { toast } from "sonner";
import { coreWorker } from "~/workers/client";
import { forgetLeftBehind, leftBehind, makeAutosave } from "./autosave";
import { initialState, setAutosave, useWorkbench } from "./store";

/** Breaks that take longer than this wait for a click. */
const QUICK = 1.5; // seconds
const BUILD_PAUSE = 120; // ms after the last edit
const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
const isCancelled = (error: unknown): boolean => messageOf(error) === "cancelled";

/** Fractures as they were last built: what waits is shown as it was. */
let builtFractures: Record<Id, Fracture> = {};
let buildTimer: ReturnType<typeof setTimeout> | undefined;
let building: Promise<void> | undefined;
let buildAgain = false;
let opened = 0;

/** Opens a shot in the workbench; returns how to leave it. */
export function openShot(shotId: string, shot: Shot, revision: number, savedAt: string): () => void {
	const session = ++opened;
	builtFractures = {};
	useWorkbench.setState({ ...initialState(), shotId, shot, frame: shot.settings.firstFrame, save: { kind: "saved", at: savedAt } });
	const autosave = makeAutosave(shotId, revision, (save) => session === opened && useWorkbench.setState({ save }));
	setAutosave(autosave);
	recover(shotId, revision);
	const stop = useWorkbench.subscribe((now, before) => {
		if (now.shot !== before.shot) scheduleBuild();
	});
	void rebuild(true);
	void coreWorker()
		.loadTake(shotId)
		.then((loaded) => {
			if (!loaded || session !== opened) return;
			let frames = { bodies: loaded.take.bodies.length, chunks: [] } as ReturnType<typeof useWorkbench.getState>["frames"];
			for (const chunk of loaded.chunks) frames = addChunk(frames, chunk);
			useWorkbench.setState({ take: { id: loaded.id, take: loaded.take }, frames });
		})
		.catch((error) => toast.error(`The last take could not be loaded: ${messageOf(error)}`));
	return () => {
		opened++;
		stop();
		autosave.dispose();
		setAutosave(undefined);
		void coreWorker().cancel("run");
	};
}

/** Edits that did not reach the server before the page went away are made again. */
function recover(shotId: string, revision: number): void {
	const left = leftBehind(shotId);
	if (!left) return;
	if (left.base !== revision) {
		forgetLeftBehind(shotId);
		if (left.base < revision) return; // the server has them, or somebody else went on
	}
	try {
		const { shot, performEdit } = useWorkbench.getState();
		const patches = left.edits.flatMap((edit) => edit.patches);
		forgetLeftBehind(shotId);
		performEdit({ name: "Recovered edits", patches, inverse: [{ op: "replace", path: [], value: shot }] });
		toast.success("Edits that had not been saved were recovered.");
	} catch {
		forgetLeftBehind(shotId);
	}
}

function scheduleBuild(): void {
	clearTimeout(buildTimer);
	buildTimer = setTimeout(() => void rebuild(false), BUILD_PAUSE);
}

/** Builds what changed. `all`: slow breaks too, because they were asked for. */
export async function rebuild(all: boolean): Promise<void> {
	if (building) {
		buildAgain = true;
		if (all) void coreWorker().cancel("build");
		return building;
	}
	const session = opened;
	building = buildOnce(all).finally(() => {
		building = undefined;
	});
	await building;
	if (buildAgain && session === opened) {
		buildAgain = false;
		await rebuild(all);
	}
}

async function buildOnce(all: boolean): Promise<void> {
	const session = opened;
	const { shot, hashes } = useWorkbench.getState();
	const { target, waiting } = all ? { target: shot, waiting: null } : holdSlowBreaks(shot);
	useWorkbench.setState({ waiting });
	const slow = setTimeout(() => useWorkbench.setState({ building: { what: "Building", fraction: 0 } }), 250);
	try {
		const result = await coreWorker().build(
			target,
			hashes,
			proxy((fraction, what) => {
				if (useWorkbench.getState().building) useWorkbench.setState({ building: { what, fraction } });
			}),
		);
		if (session !== opened) return;
		builtFractures = { ...target.fractures };
		useWorkbench.setState((state) => {
			const drawings = Object.fromEntries(Object.entries(state.drawings).filter(([id]) => target.objects[id]));
			for (const drawing of result.drawings) drawings[drawing.object] = drawing;
			return { ...result, drawings };
		});
		// Checks need colliders, which take longer: after the picture.
		const inspected = await coreWorker().inspect(target);
		if (session === opened) useWorkbench.setState(inspected);
		if (useWorkbench.getState().showColliders) await loadColliderLines();
		if (useWorkbench.getState().showTies) await loadTies();
	} catch (error) {
		if (!isCancelled(error) && session === opened) toast.error(messageOf(error));
	} finally {
		clearTimeout(slow);
		useWorkbench.setState({ building: null });
	}
}

/** The shot with breaks that would take long left as they were. */
function holdSlowBreaks(shot: Shot): { target: Shot; waiting: ReturnType<typeof useWorkbench.getState>["waiting"] } {
	const { reports } = useWorkbench.getState();
	let target = shot;
	let waiting: { object: Id; seconds: number } | null = null;
	for (const [id, fracture] of Object.entries(shot.fractures)) {
		if (builtFractures[id] === fracture) continue;
		const seconds = estimateBreak(fracture, reports[fracture.object]?.triangles ?? 0);
		if (seconds <= QUICK) continue;
		waiting = { object: fracture.object, seconds };
		const { [id]: _, ...others } = target.fractures;
		const former = builtFractures[id];
		target = { ...target, fractures: former ? { ...others, [id]: former } : others };
	}
	return { target, waiting };
}

export function estimateBreak(fracture: Fracture, triangles: number): number {
	return methodById(fracture.method)?.estimate(triangles, fracture.options) ?? 0;
}

export const breakNow = (): Promise<void> => rebuild(true);
export const cancelBuild = (): void => void coreWorker().cancel("build");

export async function loadColliderLines(): Promise<void> {
	try {
		useWorkbench.setState({ colliderLines: await coreWorker().colliderLines(useWorkbench.getState().shot) });
	} catch (error) {
		if (!isCancelled(error)) toast.error(`Colliders cannot be drawn: ${messageOf(error)}`);
	}
}

/** What ties bodies to each other, for the view and the bench. */
export async function loadTies(): Promise<void> {
	const session = opened;
	const { shot } = useWorkbench.getState();
	try {
		const ties = await coreWorker().ties(shot);
		if (session === opened && useWorkbench.getState().shot === shot) useWorkbench.setState({ ties });
	} catch (error) {
		if (!isCancelled(error)) toast.error(`Bonds cannot be drawn: ${messageOf(error)}`);
	}
}

/** Runs from the first frame that is stale or missing. */
export async function run(): Promise<void> {
	const { shot, shotId, run: running } = useWorkbench.getState();
	if (running) return;
	const session = opened;
	const set = useWorkbench.setState;
	const first = shot.settings.firstFrame;
	set({ run: { from: first, at: first - 1, fraction: 0, what: "Getting ready", startedAt: performance.now() } });
	try {
		const result = await coreWorker().run(
			shotId,
			shot,
			proxy((fraction, what) => set((state) => (state.run ? { run: { ...state.run, fraction, what } } : {}))),
			proxy((id, take, from) => {
				if (session !== opened) return;
				set((state) => ({
					take: { id, take },
					frames: dropFrom({ ...state.frames, bodies: take.bodies.length }, from),
					run: state.run && { ...state.run, from, at: from - 1 },
				}));
			}),
			proxy((chunk, take) => {
				if (session !== opened) return;
				set((state) => ({
					take: state.take && { ...state.take, take },
					frames: addChunk(state.frames, chunk),
					run: state.run && { ...state.run, at: chunk.firstFrame + chunk.frames - 1 },
				}));
			}),
		);
		if (session !== opened) return;
		set({ lastRun: { frames: result.frames, milliseconds: result.milliseconds } });
		if (result.finished && result.frames === 0) toast("All frames are up to date.");
		void inspectAfterRun(shot);
	} catch (error) {
		if (!isCancelled(error) && session === opened) toast.error(messageOf(error), { duration: 8000 });
	} finally {
		if (session === opened) set({ run: null });
	}
}

async function inspectAfterRun(shot: Shot): Promise<void> {
	try {
		useWorkbench.setState(await coreWorker().inspect(shot));
	} catch (error) {
		if (!isCancelled(error)) throw error;
	}
}

export const stopRun = (): void => void coreWorker().cancel("run");

/** The fracture of an object, with its id. */
export function fractureFor(shot: Shot, object: Id): { id: Id; fracture: Fracture } | undefined {
	const id = fractureOf(shot, object);
	return id === undefined ? undefined : { id, fracture: shot.fractures[id]! };
}
