import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex, utf8ToBytes } from "@noble/hashes/utils.js";

/** A SHA-256 as 64 lower-case hexadecimal digits. */
export type Hash = string;

export const hashBytes = (bytes: Uint8Array): Hash => bytesToHex(sha256(bytes));
export const hashText = (text: string): Hash => hashBytes(utf8ToBytes(text));

/** The hash of a plain value: SHA-256 over its canonical JSON. */
export const hashValue = (value: unknown): Hash => hashText(canonicalJson(value));

/**
 * JSON with sorted keys and shortest numbers, so that equal values give equal text.
 * Members that are `undefined` are left out. Throws on NaN and infinities: a document must not hold them.
 */
export function canonicalJson(value: unknown): string {
	if (value === null || typeof value === "boolean" || typeof value === "string") return JSON.stringify(value);
	if (typeof value === "number") {
		if (!Number.isFinite(value)) throw new Error("canonicalJson: a number is not finite");
		return Object.is(value, -0) ? "0" : String(value);
	}
	if (Array.isArray(value)) return `[${value.map((item) => canonicalJson(item ?? null)).join(",")}]`;
	if (typeof value === "object") {
		const record = value as Record<string, unknown>;
		const members = Object.keys(record)
			.filter((key) => record[key] !== undefined)
			.sort()
			.map((key) => `${JSON.stringify(key)}:${canonicalJson(record[key])}`);
		return `{${members.join(",")}}`;
	}
	throw new Error(`canonicalJson: cannot write a ${typeof value}`);
}
