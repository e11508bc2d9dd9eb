import { jest } from "@jest/globals";
import { forgetLeftBehind, leftBehind, makeAutosave, type SaveState } from "./autosave";

/** What the server answers, one after the other; the last goes on. */
type Answer = { status: number; body?: object } | "dead";
let answers: Answer[];
let sent: { base: number; name: string; patches: unknown[] }[];
const storage = new Map<string, string>();

beforeEach(() => {
	jest.useFakeTimers();
	answers = [];
	sent = [];
	storage.clear();
	Object.assign(globalThis, {
		localStorage: {
			getItem: (key: string) => storage.get(key) ?? null,
			setItem: (key: string, value: string) => storage.set(key, value),
			removeItem: (key: string) => storage.delete(key),
		},
		fetch: async (_: string, { body }: { body: string }) => {
			const answer = answers.length > 1 ? answers.shift()! : answers[0]!;
			if (answer === "dead") throw new TypeError("Failed to fetch");
			sent.push(JSON.parse(body));
			return { ok: answer.status < 400, status: answer.status, json: async () => answer.body ?? {} };
		},
	});
});
afterEach(() => jest.useRealTimers());

const edit = (name: string) => ({ name, patches: [{ op: "replace" as const, path: ["name"], value: name }], inverse: [] });
const saved = (revision: number): Answer => ({ status: 200, body: { revision, at: "2026-11-25T10:00:00Z" } });
function begin(revision = 4) {
	const states: SaveState["kind"][] = [];
	return { states, autosave: makeAutosave("shot", revision, ({ kind }) => states.push(kind)) };
}

test("edits made in quick succession go out together, on top of the revision they start from", async () => {
	answers = [saved(5)];
	const { states, autosave } = begin();
	autosave.push(edit("Move"));
	autosave.push(edit("Turn"));
	expect(sent).toEqual([]);
	await jest.advanceTimersByTimeAsync(300);
	expect(sent).toEqual([{ base: 4, name: "2 edits", patches: [...edit("Move").patches, ...edit("Turn").patches] }]);
	expect(states.at(-1)).toBe("saved");
	expect(leftBehind("shot")).toBeUndefined();
});

test("the next edit starts from the revision that the server gave", async () => {
	answers = [saved(5), saved(6)];
	const { autosave } = begin();
	autosave.push(edit("Move"));
	await jest.advanceTimersByTimeAsync(300);
	autosave.push(edit("Turn"));
	await jest.advanceTimersByTimeAsync(300);
	expect(sent.map(({ base, name }) => [base, name])).toEqual([
		[4, "Move"],
		[5, "Turn"],
	]);
});

test("while the server is dead edits lie in local storage, and are sent when it comes back", async () => {
	answers = ["dead", saved(5)];
	const { states, autosave } = begin();
	autosave.push(edit("Move"));
	await jest.advanceTimersByTimeAsync(300);
	expect(states.at(-1)).toBe("offline");
	expect(leftBehind("shot")).toEqual({ base: 4, edits: [{ name: "Move", patches: edit("Move").patches }] });
	await jest.advanceTimersByTimeAsync(3100);
	expect(states.at(-1)).toBe("saved");
	expect(sent).toHaveLength(1);
	expect(leftBehind("shot")).toBeUndefined();
});

test("a server that cannot save just now is asked again; nothing is lost", async () => {
	answers = [{ status: 503 }, saved(5)];
	const { states, autosave } = begin();
	autosave.push(edit("Move"));
	await jest.advanceTimersByTimeAsync(300);
	expect(states.at(-1)).toBe("offline");
	await jest.advanceTimersByTimeAsync(3100);
	expect(states.at(-1)).toBe("saved");
});

test("a conflict stops sending for good: nothing of the other is overwritten, and one's own is kept", async () => {
	answers = [{ status: 409 }];
	const { states, autosave } = begin();
	autosave.push(edit("Move"));
	await jest.advanceTimersByTimeAsync(300);
	autosave.push(edit("Turn"));
	await jest.advanceTimersByTimeAsync(10_000);
	expect(states.at(-1)).toBe("conflict");
	expect(sent).toHaveLength(1);
	expect(leftBehind("shot")!.edits.map(({ name }) => name)).toEqual(["Move", "Turn"]);
	forgetLeftBehind("shot");
	expect(leftBehind("shot")).toBeUndefined();
});

test("a refused edit says why", async () => {
	answers = [{ status: 400, body: { message: "The change does not fit the shot." } }];
	const messages: string[] = [];
	const autosave = makeAutosave("shot", 1, (state) => state.kind === "refused" && messages.push(state.message));
	autosave.push(edit("Move"));
	await jest.advanceTimersByTimeAsync(300);
	expect(messages).toEqual(["The change does not fit the shot."]);
});

test("damaged storage is as good as none", () => {
	storage.set("rubble.unsaved.shot", "{");
	expect(leftBehind("shot")).toBeUndefined();
});
