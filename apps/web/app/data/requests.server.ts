import { type Schema, ValidationError } from "yup";

/** Frames of 30,000 bodies fit; whole videos do not. */
export const MOST_BLOB_BYTES = 512 * 1024 * 1024;
const MOST_JSON_BYTES = 32 * 1024 * 1024;

/** An answer that says in words what was wrong with the request. */
export const refuse = (status: number, message: string): Response => Response.json({ message }, { status });

/** The body as bytes, up to a limit that is checked while it comes in. */
export async function readBody(request: Request, most: number): Promise<Uint8Array> {
	if (Number(request.headers.get("content-length") ?? 0) > most)
		throw refuse(413, `The request is larger than ${Math.round(most / 1048576)} MB.`);
	const parts: Uint8Array[] = [];
	let size = 0;
	for await (const part of (request.body ?? []) as AsyncIterable<Uint8Array>) {
		size += part.length;
		if (size > most) throw refuse(413, `The request is larger than ${Math.round(most / 1048576)} MB.`);
		parts.push(part);
	}
	return Buffer.concat(parts);
}

/** The body as JSON of a known shape; throws an answer that says what does not fit. */
export async function readJson<T>(request: Request, schema: Schema<T>): Promise<T> {
	const bytes = await readBody(request, MOST_JSON_BYTES);
	let value: unknown;
	try {
		value = JSON.parse(new TextDecoder().decode(bytes));
	} catch {
		throw refuse(400, "The request is no JSON.");
	}
	return validate(value, schema);
}

export function validate<T>(value: unknown, schema: Schema<T>): T {
	try {
		return schema.validateSync(value, { abortEarly: true });
	} catch (error) {
		if (error instanceof ValidationError) throw refuse(400, `The request does not fit: ${error.message}.`);
		throw error;
	}
}
