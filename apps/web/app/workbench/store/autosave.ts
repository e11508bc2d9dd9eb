import type { Edit, Patch } from "@rubble/core/shot";

/** An edit that the server does not have yet. */
interface Unsaved {
	readonly name: string;
	readonly patches: readonly Patch[];
}

export type SaveState =
	| { readonly kind: "saved"; readonly at: string }
	| { readonly kind: "saving" }
	/** The server did not answer; edits are kept here and sent again. */
	| { readonly kind: "offline"; readonly message: string }
	/** Somebody else changed the shot; nothing is overwritten. */
	| { readonly kind: "conflict" }
	| { readonly kind: "refused"; readonly message: string };

export interface Autosave {
	readonly push: (edit: Edit) => void;
	/** Resolves when nothing is left to send, or sending has failed. */
	readonly flush: () => Promise<void>;
	readonly dispose: () => void;
}

const storageKey = (shot: string) => `rubble.unsaved.${shot}`;

/** Edits that a reload or a dead server left behind, with the revision they start from. */
export function leftBehind(shot: string): { base: number; edits: Unsaved[] } | undefined {
	try {
		const text = localStorage.getItem(storageKey(shot));
		return text ? (JSON.parse(text) as { base: number; edits: Unsaved[] }) : undefined;
	} catch {
		return undefined;
	}
}

export const forgetLeftBehind = (shot: string): void => localStorage.removeItem(storageKey(shot));

const RETRY = 3000; // ms
const PAUSE = 250; // ms of quiet before edits are sent

/** Sends edits one after the other, each on top of the revision before; what is not sent yet also lies in local storage. */
export function makeAutosave(shot: string, revision: number, onState: (state: SaveState) => void): Autosave {
	let base = revision;
	let queue: Unsaved[] = [];
	let sending: Promise<void> | undefined;
	let timer: ReturnType<typeof setTimeout> | undefined;
	let stopped = false;

	const keep = () => {
		if (queue.length === 0) forgetLeftBehind(shot);
		else {
			try {
				localStorage.setItem(storageKey(shot), JSON.stringify({ base, edits: queue }));
			} catch {
				// Full or forbidden storage must not stop the work; the server is asked first anyway.
			}
		}
	};
	const later = (delay: number) => {
		clearTimeout(timer);
		timer = setTimeout(() => void flush(), delay);
	};
	const send = async () => {
		while (queue.length > 0 && !stopped) {
			onState({ kind: "saving" });
			const batch = queue.slice();
			const body = JSON.stringify({
				base,
				name: batch.length === 1 ? batch[0]!.name : `${batch.length} edits`,
				patches: batch.flatMap((edit) => edit.patches),
			});
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
			const answer = await response.json().catch(() => ({}));
			if (response.ok) {
				base = answer.revision;
				queue = queue.slice(batch.length);
				keep();
				onState(queue.length > 0 ? { kind: "saving" } : { kind: "saved", at: answer.at });
			} else if (response.status === 409) {
				stopped = true;
				onState({ kind: "conflict" });
			} else if (response.status >= 500) {
				onState({ kind: "offline", message: "The server cannot save just now. Your edits are kept here and will be sent." });
				later(RETRY);
				return;
			} else {
				stopped = true;
				onState({ kind: "refused", message: answer.message ?? `The server answered ${response.status}.` });
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
	return {
		push(edit) {
			queue.push({ name: edit.name, patches: edit.patches });
			keep();
			if (!stopped) later(PAUSE);
		},
		flush,
		dispose() {
			void flush();
			clearTimeout(timer);
		},
	};
}
