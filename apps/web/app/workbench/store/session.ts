import { colouringPicture } from "@rubble/core/bodies";
import { addChunk, type Chunk, dropFrom, storeOf } from "@rubble/core/cache";
import { methodById } from "@rubble/core/fracture";
import { applyEdit, type Edit, edit, type Fracture, formatQuantity, fractureOf, type Id, type Shot, squash } from "@rubble/core/shot";
import type { Take } from "@rubble/core/simulation";
import { DEEPEST, onlyActive, physicsOff } from "@rubble/core/takes";
import { proxy } from "comlink";
import { toast } from "sonner";
import type { TakeCard } from "~/data/takes.server";
import { coreWorker } from "~/workers/client";
import type { KeptFrame, RunEvents, RunResult } from "~/workers/messages";
import { getJson, sendJson } from "~/workers/network";
import { type Autosave, makeAutosave } from "./autosave";
import { recover, remake } from "./recovery";
import { pickedMovers, pickedParts } from "./selectors";
import { initialState, noteHold, setAutosave, useWorkbench, type WorkbenchState } from "./store";

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
	// The bench of the stage, whose effects run before this, has said what it shows.
	const { showTies, showForces, showPaths } = useWorkbench.getState();
	useWorkbench.setState({
		...initialState(),
		shotId,
		shot,
		frame: shot.settings.firstFrame,
		save: { kind: "saved", at: savedAt },
		showTies,
		showForces,
		showPaths,
	});
	void recover(shotId, revision, beginSaving(shotId, revision, session), () => session === opened);
	const stop = useWorkbench.subscribe((now, before) => {
		if (now.shot === before.shot) return;
		scheduleBuild();
		if (now.shot.colouring !== before.shot.colouring) void loadPixels();
	});
	const stopHold = watchHold();
	void rebuild(true);
	void loadPixels();
	void showTake(undefined);
	void listTakes();
	return () => {
		opened++;
		stop();
		stopHold();
		autosave?.dispose();
		setAutosave(undefined);
		useWorkbench.setState({ showTies: false, showForces: false, showPaths: false });
		void coreWorker().cancel("run");
	};
}

/** Sends edits of the shot that is open. */
let autosave: Autosave | undefined;

function beginSaving(shotId: string, revision: number, session: number): Autosave {
	autosave = makeAutosave(shotId, revision, (save) => session === opened && useWorkbench.setState({ save }));
	setAutosave(autosave);
	return autosave;
}

/** Goes on without the edit that can never be saved: from what is saved, with those after it that still fit. */
export async function goOnWithoutRefused(): Promise<void> {
	const session = opened;
	const { shotId } = useWorkbench.getState();
	const [refused, ...later] = autosave?.unsaved() ?? [];
	if (!refused) return;
	try {
		const saved = (await getJson(`/api/shots/${shotId}?revision`)) as {
			readonly shot: Shot;
			readonly revision: number;
			readonly updatedAt: string;
		};
		if (session !== opened) return;
		const { shot, made, steps, refused: lost } = remake(saved.shot, later);
		giveUpUnsaved();
		autosave?.dispose();
		useWorkbench.setState({ shot, undoStack: steps, redoStack: [], save: { kind: "saved", at: saved.updatedAt } });
		beginSaving(shotId, saved.revision, session).takeUp(made);
		toast(`Taken back: ${[refused.name, ...lost].join(", ")}.`, { duration: 8000 });
	} catch (error) {
		toast.error(messageOf(error));
	}
}

/** Forgets what has not been saved: it has been shown, and is not wanted. */
export const giveUpUnsaved = (): void => autosave?.giveUp();

/** Tells when the pointer is held anywhere in the page, before anybody who takes the event; returns how to leave it. */
function watchHold(): () => void {
	const onDown = () => noteHold(true);
	const onUp = () => noteHold(false);
	const ends = ["pointerup", "pointercancel"] as const;
	window.addEventListener("pointerdown", onDown, true);
	for (const end of ends) window.addEventListener(end, onUp, true);
	return () => {
		window.removeEventListener("pointerdown", onDown, true);
		for (const end of ends) window.removeEventListener(end, onUp, true);
	};
}

/** Reads the picture that the shot takes its colours from, unless it is known. */
async function loadPixels(): Promise<void> {
	const { shot, pixels } = useWorkbench.getState();
	const picture = colouringPicture(shot);
	if (!picture || pixels?.picture === picture) return;
	try {
		const value = await coreWorker().pixelsOf(picture);
		if (colouringPicture(useWorkbench.getState().shot) === picture) useWorkbench.setState({ pixels: { picture, value } });
	} catch (error) {
		toast.error(messageOf(error));
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
	const tell = (fraction: number, what: string): void => {
		if (useWorkbench.getState().building) useWorkbench.setState({ building: { what, fraction } });
	};
	try {
		const result = await coreWorker().build(target, hashes, proxy(tell));
		if (session !== opened) return;
		builtFractures = { ...target.fractures };
		useWorkbench.setState((state) => {
			const drawings = Object.fromEntries(Object.entries(state.drawings).filter(([id]) => target.objects[id]));
			for (const drawing of result.drawings) drawings[drawing.object] = drawing;
			return { ...result, drawings };
		});
		// Checks need colliders, which take longer: after the picture.
		tell(0, "Checking");
		const inspected = await coreWorker().inspect(target, proxy(tell));
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
		const { shot, frame } = useWorkbench.getState();
		useWorkbench.setState({ colliderLines: await coreWorker().colliderLines(shot, frame) });
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

/** Puts a take on show, or the one that was last. */
export async function showTake(id: string | undefined): Promise<void> {
	const session = opened;
	const { shotId } = useWorkbench.getState();
	try {
		const loaded = await coreWorker().loadTake(shotId, id);
		if (session !== opened) return;
		if (!loaded) return useWorkbench.setState({ take: null, frames: { bodies: 0, chunks: [] } });
		const { chunks, ...take } = loaded;
		const frames = storeOf(take.take.bodies.length, chunks);
		useWorkbench.setState({ take, frames, lastRun: null });
		if (id !== undefined) await sendJson(`/api/takes/${id}`, "PATCH", { shown: true });
	} catch (error) {
		if (session === opened) toast.error(`The take could not be loaded: ${messageOf(error)}`);
	}
}

export async function listTakes(): Promise<void> {
	const session = opened;
	const { shotId } = useWorkbench.getState();
	try {
		const takes = (await getJson(`/api/shots/${shotId}/takes`)) as readonly TakeCard[];
		if (session === opened) useWorkbench.setState({ takes });
	} catch {
		// Lists are asked for again with every run; the take on show says what is wrong, if anything is.
	}
}

/** Renames, locks, picks … a take. */
export async function changeTake(id: string, facts: Partial<Pick<TakeCard, "name" | "note" | "locked" | "picked">>): Promise<void> {
	try {
		await sendJson(`/api/takes/${id}`, "PATCH", facts);
		useWorkbench.setState(({ take }) => (take?.id === id ? { take: { ...take, ...facts } } : {}));
		const { take } = useWorkbench.getState();
		if (take?.id === id) void coreWorker().noteTake({ name: take.name, locked: take.locked });
	} catch (error) {
		toast.error(messageOf(error));
	}
	// The good one is what is on show, and what Bake writes.
	if (facts.picked && useWorkbench.getState().take?.id !== id) await showTake(id);
	await listTakes();
}

export async function duplicateTake(id: string): Promise<void> {
	try {
		const copy = (await sendJson(`/api/takes/${id}`, "POST", {})) as { id: string };
		await showTake(copy.id);
	} catch (error) {
		toast.error(messageOf(error));
	}
	await listTakes();
}

export async function deleteTake(id: string): Promise<void> {
	try {
		await sendJson(`/api/takes/${id}`, "DELETE", {});
		if (useWorkbench.getState().take?.id === id) await showTake(undefined);
	} catch (error) {
		toast.error(messageOf(error));
	}
	await listTakes();
}

/** Makes the shot what it was when a take ran. One step of undo. */
export function takeUpSettings(id: string): void {
	const { take, shot, performEdit } = useWorkbench.getState();
	if (take?.id !== id) return;
	performEdit({
		name: `Settings of ${take.name}`,
		patches: [{ op: "replace", path: [], value: { ...take.take.snapshot, name: shot.name, note: shot.note } }],
		inverse: [{ op: "replace", path: [], value: shot }],
	});
}

interface RunWish {
	/** Run into a new take of this name. */
	readonly fresh?: string;
	/** Run this instead of the shot. */
	readonly instead?: Shot;
}

/** Runs from the first frame that is stale or missing. */
export async function run({ fresh, instead }: RunWish = {}): Promise<void> {
	const { shot, shotId, run: running, take, takes, looking } = useWorkbench.getState();
	if (running) return;
	if (looking) return void toast("An earlier revision is only looked at. Bring it back first.");
	// What a sweep has made stays what it was made of.
	const swept = takes.find(({ id }) => id === take?.id)?.changes.length ?? 0;
	const into = fresh ?? (swept > 0 ? "Take 1" : undefined);
	if (take && fresh === undefined && (take.locked || swept > 0))
		toast(`${take.name} ${take.locked ? "is locked" : "was made by a sweep"}; the run goes into a new take.`);
	await simulateFrom((instead ?? shot).settings.firstFrame, (...heard) => coreWorker().run(shotId, instead ?? shot, into, ...heard));
}

/** Goes on from a stored frame with the shot as it is now, into a take of its own. */
export async function goOn(frame: number): Promise<void> {
	const { shot, shotId, run: running, take } = useWorkbench.getState();
	if (running || !take) return;
	const fresh = `${take.name} from ${frame}`;
	await simulateFrom(frame + 1, (...heard) => coreWorker().goOn(shotId, shot, frame, fresh, ...heard));
}

/** Shows a simulation while it runs, and what came of it. `first`: the frame that it is about to make. */
async function simulateFrom(
	first: number,
	begin: (...heard: readonly [RunEvents["onProgress"], RunEvents["onStart"], RunEvents["onChunk"]]) => Promise<RunResult>,
): Promise<void> {
	const { shot } = useWorkbench.getState();
	const session = opened;
	const set = useWorkbench.setState;
	set({ run: { from: first, at: first - 1, fraction: 0, what: "Getting ready", startedAt: performance.now() } });
	try {
		const result = await begin(
			proxy((fraction, what, cost) =>
				set((state) => (state.run ? { run: { ...state.run, fraction, what, cost: cost ?? state.run.cost } } : {})),
			),
			...showMade(session),
		);
		if (session !== opened) return;
		set({ lastRun: { frames: result.frames, milliseconds: result.milliseconds } });
		if (result.finished && result.frames === 0) toast("All frames are up to date.");
		void inspectAfterRun(shot);
	} catch (error) {
		if (!isCancelled(error) && session === opened) toast.error(messageOf(error), { duration: 8000 });
	} finally {
		if (session === opened) {
			set({ run: null });
			void listTakes();
		}
	}
}

/** Shows the chunks of a take as they are made, while the shot is open. */
function showMade(session: typeof opened) {
	const set = useWorkbench.setState;
	return [
		proxy((id: string, name: string, begun: Take, from: number) => {
			if (session !== opened) return;
			set((state) => ({
				take: { id, name, locked: false, take: begun },
				frames: dropFrom({ ...state.frames, bodies: begun.bodies.length }, from),
				run: state.run && { ...state.run, from, at: from - 1 },
			}));
		}),
		proxy((chunk: Chunk, next: Take) => {
			if (session !== opened) return;
			set((state) => ({
				take: state.take && { ...state.take, take: next },
				frames: addChunk(state.frames, chunk),
				run: state.run && { ...state.run, at: chunk.firstFrame + chunk.frames - 1 },
			}));
		}),
	] as const;
}

/** The motion of the take on show on the pieces as they are now, as a take of its own: a coarse break was tried, the fine one is shown. */
export async function carryOver(): Promise<void> {
	const { shot, shotId, take, run: running } = useWorkbench.getState();
	if (!take || running) return;
	try {
		const { carried, left } = await coreWorker().carry(shotId, shot, `${take.name}, carried over`, ...showMade(opened));
		toast.success(
			`${carried.toLocaleString("en")} ${carried === 1 ? "body follows" : "bodies follow"} ${take.name}${left > 0 ? `; ${left.toLocaleString("en")} found nothing to follow` : ""}. Run makes it true.`,
		);
	} catch (error) {
		toast.error(messageOf(error), { duration: 8000 });
	}
	await listTakes();
}

/** Runs with nothing active but what is picked, into a take of its own. */
export function runAlone(): void {
	const { shot, selection, bodies } = useWorkbench.getState();
	const alone = onlyActive(shot, bodies, pickedParts({ shot, selection }));
	if (!alone.ok) toast.error(alone.problems[0]!.message);
	else void run({ fresh: alone.value.name, instead: alone.value.shot });
}

/** Runs the shot with a check's fix as a take of its own, to be compared with the one before; the shot stays as it is. */
export async function tryFix(label: string, fix: Edit): Promise<void> {
	const { shot, shotId, take: before } = useWorkbench.getState();
	await run({ fresh: label, instead: applyEdit(shot, fix.patches) });
	const { take } = useWorkbench.getState();
	if (!take || take.id === before?.id) return;
	toast.success(`${take.name} was tried. The shot is as it was; the fix makes it so.`, {
		duration: 12_000,
		...(before && {
			action: { label: "Compare", onClick: () => window.open(`/shots/${shotId}/takes?with=${before.id},${take.id}`, "_blank") },
		}),
	});
}

/** What is picked, where something of it moves; else (a force, a vessel that holds still) nothing is, which means all. */
const pickedThings = (state: WorkbenchState, loose = false): readonly string[] =>
	pickedMovers(state, loose).length > 0 ? pickedParts(state) : [];

/** Takes a frame of the take on show as where the shot starts; with `still`, physics goes away. */
export async function keepFrame(still: boolean): Promise<void> {
	const state = useWorkbench.getState();
	const { shot, frame } = state;
	try {
		const kept = await coreWorker().keepFrame(shot, frame, pickedThings(state));
		applyKept(kept, still, `where frame ${frame} has them`);
	} catch (error) {
		toast.error(messageOf(error));
	}
}

/** Lets what is picked fall onto everything else until it rests, keeps it there, and takes physics off it. */
export async function settle(): Promise<void> {
	const state = useWorkbench.getState();
	const { shot, run: running } = state;
	if (running) return;
	const session = opened;
	const set = useWorkbench.setState;
	const first = shot.settings.firstFrame;
	set({ run: { from: first, at: first - 1, fraction: 0, what: "Getting ready", startedAt: performance.now(), settles: true } });
	try {
		const kept = await coreWorker().settle(
			shot,
			pickedThings(state, true),
			proxy((fraction, what) => set((state) => (state.run ? { run: { ...state.run, fraction, what } } : {}))),
			proxy((ids, poses, at) => {
				if (session === opened) set((state) => ({ settling: { ids, poses }, run: state.run && { ...state.run, at } }));
			}),
		);
		if (session !== opened) return;
		applyKept(kept, true, kept.rested ? "at rest" : "as they were when it stopped");
		set({ frame: first });
	} catch (error) {
		if (!isCancelled(error) && session === opened) toast.error(messageOf(error), { duration: 8000 });
	} finally {
		if (session === opened) set({ run: null, settling: null });
	}
}

/** One edit for the new places and, where wanted, for what happens to the bodies. */
function applyKept({ edit: change, count, deepest, crumbled }: KeptFrame, still: boolean, how: string): void {
	const { shot, bodies, selection, performEdit } = useWorkbench.getState();
	if (count === 0) {
		toast("Nothing that is active is among it, so nothing was kept.");
		return;
	}
	const chosen = new Set(pickedParts({ shot, selection }));
	const wanted = bodies.filter((body) => chosen.size === 0 || chosen.has(body.id) || chosen.has(body.object));
	const off = still ? edit(applyEdit(shot, change.patches), physicsOff(shot, wanted)).edit : undefined;
	performEdit(off ? squash("Settle and keep", [change, off]) : { ...change, name: "Keep places" });
	const deep =
		deepest > DEEPEST
			? `The deepest overlap is ${formatQuantity(deepest, "length")}.`
			: `No overlap over ${formatQuantity(DEEPEST, "length", 1)}.`;
	toast.success(`${count.toLocaleString("en")} ${count === 1 ? "thing was" : "things were"} kept ${how}. ${deep}`);
	if (crumbled > 0)
		toast(
			`${crumbled.toLocaleString("en")} ${crumbled === 1 ? "piece" : "pieces"} had crumbled by then: whole again in the shot, without the stones. Go on from the frame instead to keep them so.`,
			{ duration: 12_000 },
		);
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
