import { isReserved, isStorable } from "@rubble/core/shot";
import { type Schema, ValidationError } from "yup";
import { codesOf, isPassing } from "./outage.server";

/** Frames of 30,000 bodies fit; whole videos do not. */
export const MOST_BLOB_BYTES = 512 * 1024 * 1024;
const MOST_JSON_BYTES = 32 * 1024 * 1024;
/** Lists and objects in each other. Curves in layers in keys in objects in a shot are 10. */
const MOST_DEPTH = 40;

/** An answer that says in words what was wrong with the request. */
export const refuse = (status: number, message: string, headers: HeadersInit = {}): Response =>
	Response.json({ message }, { status, headers: { "Cache-Control": "no-store", ...headers } });

/** An answer that is data; it may be another one a moment later. */
export const answer = (value: unknown): Response => Response.json(value, { headers: { "Cache-Control": "no-store" } });

interface Asked {
	readonly request: Request;
	readonly params: Readonly<Record<string, string | undefined>>;
}

/**
 * The one boundary of every route: whatever goes wrong behind it comes out as an answer with a sentence. What is asked for in
 * letters that nothing can be called is refused before anybody looks for it.
 */
export const answering =
	<A extends Asked, R>(work: (asked: A) => R | Promise<R>) =>
	async (asked: A): Promise<R> => {
		try {
			for (const text of [...Object.values(asked.params), ...new URL(asked.request.url).searchParams.values()])
				if (text !== undefined && !isStorable(text)) throw refuse(400, "The address holds a character that nothing is called by.");
			return await work(asked);
		} catch (error) {
			throw error instanceof Response ? error : refusalOf(error);
		}
	};

function refusalOf(error: unknown): Response {
	if (isPassing(error))
		return refuse(503, "The database does not answer just now. Nothing is lost; it is asked again.", { "Retry-After": "2" });
	const codes = codesOf(error);
	// PostgreSQL's classes of errors: data that no column takes, and references to rows that are gone.
	if (codes.some((code) => code.startsWith("22"))) return refuse(400, "The request holds something that cannot be stored.");
	if (codes.includes("23503")) return refuse(404, "What this belongs to was deleted.");
	console.error(error);
	return refuse(500, "The server failed at this; what it says of it stands in its log. Nothing that was saved is lost.");
}

const tooLarge = (most: number) => refuse(413, `The request is larger than ${Math.round(most / 1048576)} MB.`);

/** The body as it comes in, up to a limit that is checked on the way. */
export async function* partsOf(request: Request, most: number): AsyncGenerator<Uint8Array> {
	if (Number(request.headers.get("content-length") ?? 0) > most) throw tooLarge(most);
	let size = 0;
	for await (const part of (request.body ?? []) as AsyncIterable<Uint8Array>) {
		size += part.length;
		if (size > most) throw tooLarge(most);
		yield part;
	}
}

/** The body as bytes. */
export async function readBody(request: Request, most: number): Promise<Uint8Array> {
	const parts: Uint8Array[] = [];
	for await (const part of partsOf(request, most)) parts.push(part);
	return Buffer.concat(parts);
}

/** The body as JSON of a known shape; throws an answer that says what does not fit. */
export async function readJson<T>(request: Request, schema: Schema<T>): Promise<T> {
	// Another kind is what a foreign page can send without being asked; see `server/door.ts`.
	if (!/^application\/json\b/.test(request.headers.get("content-type") ?? "")) throw refuse(415, "JSON is needed (application/json).");
	const bytes = await readBody(request, MOST_JSON_BYTES);
	let value: unknown;
	try {
		value = JSON.parse(new TextDecoder("utf-8", { fatal: true }).decode(bytes));
	} catch {
		throw refuse(400, "The request is no JSON.");
	}
	const fault = faultOf(value);
	if (fault) throw refuse(422, fault);
	return validate(value, schema);
}

/** What of a JSON value nothing here can hold. Not by recursion: it may be as deep as the request is long. */
export function faultOf(value: unknown): string | undefined {
	const rest: { readonly value: unknown; readonly depth: number }[] = [{ value, depth: 0 }];
	for (let one = rest.pop(); one; one = rest.pop()) {
		const { value: at, depth } = one;
		if (typeof at === "string") {
			if (!isStorable(at)) return "The request holds a character that cannot be stored (NUL, or half of a character). Take it out.";
		} else if (typeof at === "object" && at !== null) {
			if (depth > MOST_DEPTH) return `The request holds lists more than ${MOST_DEPTH} deep in each other.`;
			const isList = Array.isArray(at);
			for (const key of isList ? at.keys() : Object.keys(at)) {
				if (!isList && (isReserved(key as string) || !isStorable(key as string)))
					return `The request calls something “${(key as string).toWellFormed().replaceAll("\0", "")}”, which nothing can be called.`;
				rest.push({ value: (at as Record<string | number, unknown>)[key], depth: depth + 1 });
			}
		}
	}
	return undefined;
}

export function validate<T>(value: unknown, schema: Schema<T>): T {
	try {
		return schema.validateSync(value, { abortEarly: true });
	} catch (error) {
		// What is of another kind than can be looked at makes the library stumble: it does not fit either.
		throw refuse(400, error instanceof ValidationError ? `The request does not fit: ${error.message}.` : "The request does not fit.");
	}
}

/** The fields of a form. */
export async function readForm(request: Request): Promise<Record<string, FormDataEntryValue>> {
	if (Number(request.headers.get("content-length") ?? 0) > MOST_JSON_BYTES) throw tooLarge(MOST_JSON_BYTES);
	try {
		return Object.fromEntries(await request.formData());
	} catch {
		throw refuse(415, "A form is needed.");
	}
}
