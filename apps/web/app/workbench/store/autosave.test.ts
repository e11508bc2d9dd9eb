import { jest } from "@jest/globals";
import { forgetLeftBehind, leftBehind, makeAutosave, type SaveState, type Unsaved } from "./autosave";

/** What the server answers, one after the other; the last goes on. */
type Answer = { status: number; body?: object } | "dead" | "lost";
let answers: Answer[];
let sent: { base: number; edits: Unsaved[] }[];
/** Edits that a server has made whose answers are lost, too. */
let made: string[];
let storage: Record<string, string>;
/** Names of the locks that pages hold. */
let held: string[];

beforeEach(() => {
	jest.useFakeTimers();
	answers = [];
	sent = [];
	made = [];
	held = [];
	storage = Object.create({
		getItem: (key: string) => storage[key] ?? null,
		setItem: (key: string, value: string) => {
			storage[key] = value;
		},
		removeItem: (key: string) => {
			delete storage[key];
		},
	});
	Object.assign(globalThis, {
		localStorage: storage,
		fetch: async (_: string, { body }: { body: string }) => {
			const answer = answers.length > 1 ? answers.shift()! : answers[0]!;
			if (answer === "dead") throw new TypeError("Failed to fetch");
			const request = JSON.parse(body) as (typeof sent)[number];
			sent.push(request);
			made.push(...request.edits.map(({ edit }) => edit));
			if (answer === "lost") throw new TypeError("The connection was closed");
			return { ok: answer.status < 400, status: answer.status, json: async () => answer.body ?? {} };
		},
	});
	Object.defineProperty(globalThis, "navigator", {
		configurable: true,
		value: {
			locks: {
				query: async () => ({ held: held.map((name) => ({ name })) }),
				request: async (name: string, work: () => Promise<void>) => {
					held.push(name);
					await work();
					held = held.filter((one) => one !== name);
				},
			},
		},
	});
});
afterEach(() => jest.useRealTimers());

const edit = (name: string) => ({ name, patches: [{ op: "replace" as const, path: ["name"], value: name }], inverse: [] });
const saved = (revision: number): Answer => ({ status: 200, body: { revision, at: "2026-11-25T10:00:00Z" } });
function begin(revision = 4) {
	const states: SaveState["kind"][] = [];
	const autosave = makeAutosave("shot", revision, ({ kind }) => states.push(kind));
	return { states, autosave, push: (name: string, step = name) => autosave.push(edit(name), step, "do") };
}
const namesSent = () => sent.map(({ base, edits }) => [base, ...edits.map(({ name }) => name)]);
/** The page goes away, and what it held with it. */
const leave = () => {
	held = [];
};

test("edits made in quick succession go out together, each with an id of its own, on top of the revision they start from", async () => {
	answers = [saved(6)];
	const { states, push } = begin();
	push("Move");
	push("Turn");
	expect(sent).toEqual([]);
	await jest.advanceTimersByTimeAsync(300);
	expect(namesSent()).toEqual([[4, "Move", "Turn"]]);
	expect(new Set(made).size).toBe(2);
	expect(states.at(-1)).toBe("saved");
	leave();
	expect(await leftBehind("shot")).toEqual([]);
});

test("a drag is many edits of one step: what of it has not been sent goes as one", async () => {
	answers = [saved(5), saved(6)];
	const { push } = begin();
	for (let n = 0; n < 20; n++) push("Move", "drag");
	await jest.advanceTimersByTimeAsync(300);
	push("Move", "drag");
	await jest.advanceTimersByTimeAsync(300);
	expect(sent.map(({ edits }) => edits.map(({ step, patches }) => [step, patches.length]))).toEqual([[["drag", 20]], [["drag", 1]]]);
	expect(new Set(made).size).toBe(2);
});

test("what may have been made though its answer was lost is never joined with what comes after it", async () => {
	answers = ["lost", saved(6)];
	const { push } = begin();
	push("Move", "drag");
	await jest.advanceTimersByTimeAsync(300);
	push("Move", "drag");
	await jest.advanceTimersByTimeAsync(3100);
	expect(sent.map(({ edits }) => edits.map(({ patches }) => patches.length))).toEqual([[1], [1, 1]]);
	expect(made[1]).toBe(made[0]);
});

test("the next edit starts from the revision that the server gave", async () => {
	answers = [saved(5), saved(6)];
	const { push } = begin();
	push("Move");
	await jest.advanceTimersByTimeAsync(300);
	push("Turn");
	await jest.advanceTimersByTimeAsync(300);
	expect(namesSent()).toEqual([
		[4, "Move"],
		[5, "Turn"],
	]);
});

test("an answer that is lost loses nothing: the same edits go again under the same ids, with those made since", async () => {
	answers = ["lost", saved(6)];
	const { states, push } = begin();
	push("Move");
	await jest.advanceTimersByTimeAsync(300);
	expect(states.at(-1)).toBe("offline");
	push("Turn");
	await jest.advanceTimersByTimeAsync(3100);
	expect(namesSent()).toEqual([
		[4, "Move"],
		[4, "Move", "Turn"],
	]);
	expect(made[0]).toBe(made[1]);
	expect(states.at(-1)).toBe("saved");
});

test("while the server is dead edits lie in local storage, and are sent when it comes back", async () => {
	answers = ["dead", saved(5)];
	const { states, push } = begin();
	push("Move");
	await jest.advanceTimersByTimeAsync(300);
	expect(states.at(-1)).toBe("offline");
	// They are this page's business while it lives.
	expect(await leftBehind("shot")).toEqual([]);
	await jest.advanceTimersByTimeAsync(3100);
	expect(states.at(-1)).toBe("saved");
	leave();
	expect(await leftBehind("shot")).toEqual([]);
});

test("what a page left behind is found by the next one; each page has its own", async () => {
	answers = ["dead"];
	const one = begin(4);
	one.push("Move");
	const other = begin(7);
	other.push("Turn");
	await jest.advanceTimersByTimeAsync(300);
	leave();
	const left = await leftBehind("shot");
	expect(left.map(({ base, edits }) => [base, ...edits.map(({ name }) => name)]).sort()).toEqual([
		[4, "Move"],
		[7, "Turn"],
	]);
	for (const edits of left) forgetLeftBehind(edits);
	expect(await leftBehind("shot")).toEqual([]);
	// Of another shot nothing is said.
	expect(await leftBehind("sho")).toEqual([]);
});

test("what was left by an earlier version gets ids", async () => {
	storage["rubble.unsaved.shot"] = JSON.stringify({ base: 3, edits: [{ name: "Move", patches: edit("Move").patches }] });
	const [left] = await leftBehind("shot");
	expect(left).toMatchObject({ base: 3, edits: [{ name: "Move", way: "do", patches: edit("Move").patches }] });
	expect(left!.edits[0]!.edit).toMatch(/.{10}/);
});

test("a server that cannot save just now is asked again; nothing is lost", async () => {
	answers = [{ status: 503 }, saved(5)];
	const { states, push } = begin();
	push("Move");
	await jest.advanceTimersByTimeAsync(300);
	expect(states.at(-1)).toBe("offline");
	await jest.advanceTimersByTimeAsync(3100);
	expect(states.at(-1)).toBe("saved");
});

test("a conflict stops sending for good: nothing of the other is overwritten, and one's own is kept until it is given up", async () => {
	answers = [{ status: 409 }];
	const { states, autosave, push } = begin();
	push("Move");
	await jest.advanceTimersByTimeAsync(300);
	push("Turn");
	await jest.advanceTimersByTimeAsync(10_000);
	expect(states.at(-1)).toBe("conflict");
	expect(sent).toHaveLength(1);
	leave();
	expect((await leftBehind("shot")).flatMap(({ edits }) => edits.map(({ name }) => name))).toEqual(["Move", "Turn"]);
	autosave.giveUp();
	expect(await leftBehind("shot")).toEqual([]);
});

test("an edit that can never be saved is named with why; those before it are saved, those after it wait", async () => {
	const told: SaveState[] = [];
	const autosave = makeAutosave("shot", 1, (state) => told.push(state));
	for (const name of ["Move", "Name it", "Turn"]) autosave.push(edit(name), name, "do");
	const culprit = autosave.unsaved()[1]!.edit;
	answers = [{ status: 422, body: { message: "It holds a NUL.", edit: culprit, revision: 2 } }];
	await jest.advanceTimersByTimeAsync(300);
	expect(told.at(-1)).toEqual({ kind: "refused", message: "It holds a NUL.", edit: culprit, name: "Name it" });
	expect(autosave.unsaved().map(({ name }) => name)).toEqual(["Name it", "Turn"]);
	await jest.advanceTimersByTimeAsync(10_000);
	expect(sent).toHaveLength(1);
});

test("damaged storage is as good as none", async () => {
	storage["rubble.unsaved.shot.page"] = "{";
	expect(await leftBehind("shot")).toEqual([]);
});
