import type { Edit, EditWay, Patch } from "@rubble/core/shot";
import { newId } from "../ids";

/** An edit that the server may not have yet. */
export interface Unsaved {
	/** Of its own, so that sending it twice is harmless. */
	readonly edit: string;
	/** The step of undo that it belongs to. */
	readonly step: string;
	readonly way: EditWay;
	readonly name: string;
	readonly patches: readonly Patch[];
}

export type SaveState =
	| { readonly kind: "saved"; readonly at: string }
	| { readonly kind: "saving" }
	/** The server did not answer; edits are kept here and sent again. */
	| { readonly kind: "offline"; readonly message: string }
	/** Somebody else changed the shot; nothing is overwritten. */
	| { readonly kind: "conflict"; readonly edits: readonly string[] }
	/** This edit can never be saved; those after it wait for what becomes of it. */
	| { readonly kind: "refused"; readonly message: string; readonly edit: string; readonly name: string };

export interface Autosave {
	readonly push: (edit: Edit, step: string, way: EditWay) => void;
	/** Takes up edits that were left behind and fit the revision that is open. */
	readonly takeUp: (edits: readonly Unsaved[]) => void;
	/** What has not been saved, in order. */
	readonly unsaved: () => readonly Unsaved[];
	/** Forgets what has not been saved: somebody has seen it and does not want it. */
	readonly giveUp: () => void;
	/** Resolves when nothing is left to send, or sending has failed. */
	readonly flush: () => Promise<void>;
	readonly dispose: () => void;
}

const PREFIX = "rubble.unsaved.";
const keyOf = (shot: string, page: string) => `${PREFIX}${shot}.${page}`;
/** A page holds a lock of this name for as long as it lives: its edits are its own business. */
const lockOf = (page: string) => `rubble.page.${page}`;

/** Edits that a reload or a dead server left behind, with the revision they start from. */
export interface Left {
	readonly key: string;
	readonly base: number;
	readonly edits: readonly Unsaved[];
}

/** What pages that are gone have left behind for a shot. */
export async function leftBehind(shot: string): Promise<Left[]> {
	const held = new Set((await navigator.locks?.query())?.held?.map(({ name }) => name));
	return Object.keys(localStorage)
		.filter(
			(key) => key === `${PREFIX}${shot}` || (key.startsWith(keyOf(shot, "")) && !held.has(lockOf(key.slice(keyOf(shot, "").length)))),
		)
		.sort()
		.flatMap((key) => {
			try {
				const { base, edits } = JSON.parse(localStorage.getItem(key)!) as { base: number; edits: Partial<Unsaved>[] };
				const whole = edits.map(({ edit = newId(), step = newId(), way = "do", name = "Edit", patches = [] }) => ({
					edit,
					step,
					way,
					name,
					patches,
				}));
				return [{ key, base, edits: whole }];
			} catch {
				return [];
			}
		});
}

export const forgetLeftBehind = ({ key }: Pick<Left, "key">): void => localStorage.removeItem(key);

const RETRY = 3000; // ms
const PAUSE = 250; // ms of quiet before edits are sent
/** Of one request; more go in the next one. */
const MOST_SENT = 500;

/** Sends edits one after the other, each on top of the revision before; what is not sent yet also lies in local storage. */
export function makeAutosave(shot: string, revision: number, onState: (state: SaveState) => void): Autosave {
	const page = newId();
	const key = keyOf(shot, page);
	let base = revision;
	let queue: Unsaved[] = [];
	/** How many of the queue have ever been sent: the server may have made them though its answer was lost, so they stay as they are. */
	let tried = 0;
	let sending: Promise<void> | undefined;
	let timer: ReturnType<typeof setTimeout> | undefined;
	let stopped = false;
	let letGo: () => void = () => undefined;
	void navigator.locks?.request(lockOf(page), () => new Promise<void>((resolve) => (letGo = resolve)));

	const keep = () => {
		if (queue.length === 0) forgetLeftBehind({ key });
		else {
			try {
				localStorage.setItem(key, JSON.stringify({ base, edits: queue }));
			} catch {
				// Full or forbidden storage must not stop the work; the server is asked first anyway.
			}
		}
	};
	const later = (delay: number) => {
		clearTimeout(timer);
		timer = setTimeout(() => void flush(), delay);
	};
	const drop = (count: number) => {
		queue = queue.slice(count);
		tried = Math.max(0, tried - count);
		keep();
	};
	const send = async () => {
		while (queue.length > 0 && !stopped) {
			onState({ kind: "saving" });
			const batch = queue.slice(0, MOST_SENT);
			tried = Math.max(tried, batch.length);
			const body = JSON.stringify({ base, edits: batch });
			let response: Response;
			try {
				response = await fetch(`/api/shots/${shot}/patches`, {
					method: "POST",
					body,
					headers: { "Content-Type": "application/json" },
					keepalive: body.length < 60_000,
				});
			} catch {
				onState({ kind: "offline", message: "The server does not answer. Your edits are kept here and will be sent." });
				later(RETRY);
				return;
			}
			const answer = await response.json().catch(() => undefined);
			if (response.ok && answer) {
				base = answer.revision;
				drop(batch.length);
				onState(queue.length > 0 ? { kind: "saving" } : { kind: "saved", at: answer.at });
			} else if (response.status === 409) {
				stopped = true;
				onState({ kind: "conflict", edits: queue.map(({ name }) => name) });
			} else if (response.status >= 500 || !answer) {
				onState({
					kind: "offline",
					message: answer?.message ?? "The server cannot save just now. Your edits are kept here and will be sent.",
				});
				later(RETRY);
				return;
			} else {
				stopped = true;
				// Those before it are saved.
				const at = batch.findIndex(({ edit }) => edit === answer.edit);
				if (at > 0) {
					base = answer.revision;
					drop(at);
				}
				const { edit, name } = queue[0]!;
				onState({ kind: "refused", message: answer.message ?? `The server answered ${response.status}.`, edit, name });
			}
		}
	};
	const flush = (): Promise<void> => {
		clearTimeout(timer);
		sending ??= send().finally(() => {
			sending = undefined;
		});
		return sending;
	};
	const add = (edits: readonly Unsaved[]) => {
		queue.push(...edits);
		keep();
		if (stopped || queue.length === 0) return;
		onState({ kind: "saving" });
		later(PAUSE);
	};
	return {
		push({ name, patches }, step, way) {
			const last = queue.length > tried ? queue[queue.length - 1] : undefined;
			// A drag is many edits of one step: what has not been sent of it goes as one.
			if (last?.step === step && last.way === way)
				queue[queue.length - 1] = { ...last, edit: newId(), patches: [...last.patches, ...patches] };
			else queue.push({ edit: newId(), step, way, name: name.slice(0, 200), patches });
			add([]);
		},
		takeUp: add,
		unsaved: () => queue,
		giveUp: () => drop(queue.length),
		flush,
		dispose() {
			void flush().finally(letGo);
			clearTimeout(timer);
		},
	};
}
