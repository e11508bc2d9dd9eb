import { eq, gt, sql } from "drizzle-orm";
import { database } from "./database.server";
import { jobs, signs } from "./schema";

export interface Health {
	readonly ok: boolean;
	/** What is wrong, a sentence each. */
	readonly problems: readonly string[];
	/** That have given a sign of life lately. */
	readonly workers: number;
	readonly waiting: number;
}

const SELF = "health";
/** A worker that has been silent for so long is not counted. s */
const SILENT = 15;

/** Writes a sign of life, for processes of this name. */
export async function giveSign(name: string): Promise<void> {
	await database
		.insert(signs)
		.values({ name, at: new Date() })
		.onConflictDoUpdate({ target: signs.name, set: { at: sql`now()` } });
}

export const takeSignBack = async (name: string): Promise<void> => void (await database.delete(signs).where(eq(signs.name, name)));

/** Writes and reads: a database that only answers may have a full disk. */
export async function checkHealth(): Promise<Health> {
	try {
		await giveSign(SELF);
	} catch (error) {
		const cause = (error as { cause?: Error }).cause ?? (error as Error);
		return { ok: false, problems: [`The database cannot write: ${cause.message}.`], workers: 0, waiting: 0 };
	}
	const alive = await database
		.select({ name: signs.name })
		.from(signs)
		.where(gt(signs.at, sql`now() - make_interval(secs => ${SILENT})`));
	const [waiting] = await database.select({ count: sql<number>`count(*)::int` }).from(jobs).where(eq(jobs.state, "waiting"));
	const workers = alive.filter(({ name }) => name !== SELF).length;
	const problems = workers === 0 && waiting!.count > 0 ? [`No worker gives a sign of life, and ${waiting!.count} jobs wait.`] : [];
	return { ok: true, problems, workers, waiting: waiting!.count };
}
