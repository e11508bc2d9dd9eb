import { array, mixed, number, object, string, ValidationError } from "yup";
import { bad, good, type Outcome } from "../common";
import { isReserved, isStorable, parseShot, SHOT_LIMITS, type Shot } from "../shot";
import type { Take } from "./take";

const hash = () =>
	string()
		.strict()
		.matches(/^[0-9a-f]{64}$/, "${path} is no SHA-256");
const word = (most = 400) =>
	string()
		.strict()
		.max(most)
		.test(
			"storable",
			"${path} holds a character that cannot be stored",
			(value) => value == null || (isStorable(value) && !isReserved(value)),
		);
const frame = () => number().strict().integer().min(-SHOT_LIMITS.frame).max(SHOT_LIMITS.frame);

/** Frames in a take, and in one of its chunks. */
const MOST_FRAMES = 100_000;
const MOST_BODIES = 200_000;

const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> => typeof value === "object" && value !== null;

// Lists as long as a take has bodies are looked at by hand: the library takes 20 µs for each.
const bodies = mixed<Take["bodies"]>()
	.required()
	.test("bodies", `\${path} must be up to ${MOST_BODIES.toLocaleString("en")} bodies with an id and a path each`, (value) => {
		const fits = (text: unknown) => typeof text === "string" && text.length <= 2000 && isStorable(text);
		return Array.isArray(value) && value.length <= MOST_BODIES && value.every((body) => isRecord(body) && fits(body.id) && fits(body.path));
	});
const joints = mixed<NonNullable<Take["joints"]>>().test(
	"joints",
	"${path} must be ids of connectors",
	(value) =>
		value === undefined ||
		(Array.isArray(value) && value.length <= 1_000_000 && value.every((id) => typeof id === "string" && isStorable(id))),
);
const frameHashes = mixed<Take["frameHashes"]>()
	.required()
	.test(
		"hashes",
		`\${path} must be up to ${MOST_FRAMES.toLocaleString("en")} hashes`,
		(value) =>
			Array.isArray(value) && value.length <= MOST_FRAMES && value.every((one) => typeof one === "string" && /^[0-9a-f]{64}$/.test(one)),
	);

const FIELDS = {
	format: string().oneOf(["mighty-rubble-take"]).required(),
	version: number().oneOf([1]).required(),
	name: word(200).required(),
	snapshot: mixed().required(),
	build: word(200).required(),
	bodies,
	joints,
	wentOn: object({ take: word(200).required(), frame: frame().required() })
		.noUnknown()
		.optional()
		.default(undefined),
	frameHashes,
	chunks: array(
		object({
			firstFrame: frame().required(),
			frames: number().strict().integer().min(1).max(MOST_FRAMES).required(),
			hash: hash().required(),
			checkpoint: hash().nullable().defined(),
		})
			.noUnknown()
			.required(),
	)
		.max(MOST_FRAMES)
		.required(),
};
const schema = object(FIELDS).strict().required();

/**
 * Reads an unknown value as a take, its snapshot as a shot by `parse`; of its chunks only that their frames follow each other.
 */
export async function parseTake(
	value: unknown,
	parse: (snapshot: unknown) => Outcome<Shot> | Promise<Outcome<Shot>> = parseShot,
): Promise<Outcome<Take>> {
	try {
		schema.validateSync(value);
	} catch (error) {
		if (!(error instanceof ValidationError)) throw error;
		return bad(`The take is not valid: ${error.errors[0]}.`);
	}
	// In the order in which they came, so that the same take gives the same bytes; what is not known is left out.
	const known = Object.entries(value as Take).filter(([field]) => Object.hasOwn(FIELDS, field));
	const take = Object.fromEntries(known) as unknown as Take;
	const snapshot = await parse(take.snapshot);
	if (!snapshot.ok) return bad(`The shot that the take was made of cannot be read. ${snapshot.problems[0]!.message}`);
	let next = snapshot.value.settings.firstFrame;
	for (const { firstFrame, frames } of take.chunks) {
		if (firstFrame !== next) return bad(`The take is not valid: frames from ${next} on are expected, but those from ${firstFrame} follow.`);
		next += frames;
	}
	return good({ ...take, snapshot: snapshot.value });
}
