import type { Contacts } from "./types";

/** Contacts of a step, with room for more where it is needed. */
export interface GrowingContacts extends Contacts {
	count: number;
	a: Int32Array;
	b: Int32Array;
	impulse: Float32Array;
}

export function growingContacts(): GrowingContacts {
	return { count: 0, a: new Int32Array(1024), b: new Int32Array(1024), impulse: new Float32Array(1024) };
}

export function addContact(contacts: GrowingContacts, a: number, b: number, impulse: number): void {
	if (contacts.count === contacts.a.length) {
		for (const field of ["a", "b", "impulse"] as const) {
			const grown = field === "impulse" ? new Float32Array(2 * contacts.count) : new Int32Array(2 * contacts.count);
			grown.set(contacts[field]);
			(contacts[field] as typeof grown) = grown;
		}
	}
	contacts.a[contacts.count] = a;
	contacts.b[contacts.count] = b;
	contacts.impulse[contacts.count++] = impulse;
}
